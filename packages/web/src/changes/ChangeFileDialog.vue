<script setup lang="ts">
import { getChangeFile, setChangeFile } from '@jurybox/api/changes'
import { ref, watch } from 'vue'
import { call } from '../api/client.ts'
import { t } from '../messages/index.ts'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'

/** Noise, checks or references of the engagement as YAML; each time it is saved it is a new version. */
const props = defineProps<{ kind: 'noise' | 'checks' | 'references' }>()
const shown = defineModel<boolean>({ required: true })
const emit = defineEmits<{ saved: [] }>()
const TITLES = {
  noise: t('changes.noiseYaml'),
  checks: t('changes.checksYaml'),
  references: t('changes.referencesYaml'),
} as const
const text = ref('')
const { data: file, problem, attempt } = useQuery(getChangeFile, () => ({ params: { kind: props.kind } }))
watch(file, (now) => (text.value = now?.text ?? ''))
async function save(): Promise<void> {
  const body = { text: text.value }
  if (!(await attempt(() => call(setChangeFile, { params: { kind: props.kind }, body })))) return
  shown.value = false
  emit('saved')
}
</script>

<template>
  <ModalDialog v-model="shown" :title="TITLES[kind]" width="900">
    <ProblemNote :text="problem" />
    <p v-if="file" class="quiet">{{ $t('changes.versionOf', { version: file.version }) }}</p>
    <v-textarea v-model="text" :label="TITLES[kind]" rows="20" class="mono" spellcheck="false" />
    <template #actions>
      <v-btn variant="text" @click="shown = false">{{ $t('common.cancel') }}</v-btn>
      <v-btn variant="flat" @click="save">{{ $t('common.save') }}</v-btn>
    </template>
  </ModalDialog>
</template>

<style scoped>
.mono :deep(textarea) {
  font-family: var(--mono);
  font-size: 12.5px;
}
</style>
