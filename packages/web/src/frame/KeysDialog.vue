<script setup lang="ts">
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
</script>

<template>
  <ModalDialog v-model="open" :title="$t('frame.keyboardShortcuts')">
    <table class="rows">
      <tbody>
        <tr v-for="key in ALWAYS" :key="key.key">
          <td>
            <kbd>{{ key.key }}</kbd>
          </td>
          <td>{{ key.does }}</td>
        </tr>
        <tr v-for="key in pageKeys" :key="key.key">
          <td>
            <kbd>{{ key.key.toUpperCase() }}</kbd>
          </td>
          <td>{{ key.does }}</td>
        </tr>
      </tbody>
    </table>
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
