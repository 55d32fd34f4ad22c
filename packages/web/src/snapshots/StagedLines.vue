<script setup lang="ts">
import { listUnparsed } from '@jurybox/api/snapshots'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'

/** The unparsed lines of a file before it is frozen. */
const props = defineProps<{ intake: string; path: string }>()
const emit = defineEmits<{ close: [] }>()
const { data: view, problem } = useQuery(listUnparsed, () => ({
  params: { import: props.intake },
  query: { path: props.path },
}))
</script>

<template>
  <ModalDialog
    :title="$t('snapshots.unparsedLinesOf', { path })"
    :width="860"
    @update:model-value="(open: boolean) => open || emit('close')"
  >
    <ProblemNote :text="problem" />
    <template v-if="view">
      <p class="quiet">
        {{
          view.lines.length < view.total
            ? $t('snapshots.theFirstUnparsed', { n: view.lines.length, total: view.total })
            : $t('snapshots.unparsedNote')
        }}
      </p>
      <ol class="lines" tabindex="0" :aria-label="$t('snapshots.unparsedLinesOf', { path })">
        <li v-for="{ line, text } in view.lines" :key="line" :value="line">
          <code>{{ text }}</code>
        </li>
      </ol>
    </template>
    <template #actions>
      <v-btn variant="text" @click="emit('close')">{{ $t('common.close') }}</v-btn>
    </template>
  </ModalDialog>
</template>

<style scoped>
.lines {
  max-height: 55vh;
  overflow: auto;
  padding-left: 64px;
  border: var(--hair);
  font-family: var(--mono);
  font-size: 12.5px;
}
code {
  white-space: pre-wrap;
}
</style>
