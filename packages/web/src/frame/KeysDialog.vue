<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { keysAreOn, pageKeys } from '../shared/keys.ts'
import ModalDialog from '../shared/ModalDialog.vue'

/** F1: the keys of this page. */
const open = ref(false)
const route = useRoute()
/** The words of the product are a page of an engagement. */
const glossary = computed(() =>
  typeof route.params['engagement'] === 'string' ? `/e/${route.params['engagement']}/glossary` : null,
)
const ALWAYS = [
  { key: 'Ctrl K', does: t('common.search') },
  { key: '↑ ↓', does: t('frame.moveInATableOr') },
  { key: 'Enter', does: t('frame.openTheFocusedItem') },
  { key: 'F1', does: t('frame.showThisList') },
]
function hear(event: KeyboardEvent): void {
  // The dialog hears Escape itself only a moment after it has come up: who is faster would be left with it open, and
  // Tab caught in it.
  if (event.key === 'Escape') open.value = false
  if (event.key !== 'F1') return
  event.preventDefault()
  open.value = !open.value
}
onMounted(() => window.addEventListener('keydown', hear))
onBeforeUnmount(() => window.removeEventListener('keydown', hear))
const keys = computed(() => [...ALWAYS, ...pageKeys.value.map(({ key, does }) => ({ key: key.toUpperCase(), does }))])
const columns: Column<{ readonly key: string; readonly does: string }>[] = [
  { key: 'key', title: t('frame.key'), value: ({ key }) => key, width: '120px' },
  { key: 'does', title: t('common.action'), value: ({ does }) => does },
]
</script>

<template>
  <ModalDialog v-model="open" :title="$t('frame.keyboardShortcuts')">
    <DataTable
      headless
      :label="$t('frame.keyboardShortcuts')"
      :rows="keys"
      :columns="columns"
      :row-key="({ key }) => key"
    >
      <template #key="{ row }">
        <kbd>{{ row.key }}</kbd>
      </template>
    </DataTable>
    <p v-if="!keysAreOn" class="quiet">{{ $t('frame.singleKeyShortcutsCanBe') }}</p>
    <template #actions>
      <v-btn v-if="glossary" :to="glossary" variant="text" @click="open = false">{{
        $t('frame.openTheGlossary')
      }}</v-btn>
      <v-btn @click="open = false">{{ $t('common.close') }}</v-btn>
    </template>
  </ModalDialog>
</template>

<style scoped>
kbd {
  font-family: var(--mono);
  font-size: 12.5px;
}
</style>
