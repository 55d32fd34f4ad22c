<script setup lang="ts">
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { type ListView, importDeviceList, exportDevices } from '@jurybox/api/labels'
import { computed, ref } from 'vue'
import { call, addressOf } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'
import { lineWords } from '../shared/words.ts'

/** Devices with their facts and labels as CSV: out, and in again after a look at what it would change. */
const emit = defineEmits<{ changed: [] }>()
const engagement = useEngagement()
const { problem, attempt } = useAttempt()
const text = ref('')
const name = ref('')
const view = ref<ListView | null>(null)
const read = (apply: boolean) =>
  attempt(async () => {
    view.value = await call(importDeviceList, { body: { text: text.value, apply } })
    if (apply) emit('changed')
  })
async function take(event: Event): Promise<void> {
  const [file] = (event.target as HTMLInputElement).files ?? []
  if (!file) return
  name.value = file.name
  text.value = await file.text()
  await read(false)
}
const wordOf = (value: unknown): string =>
  value === null ? 'none' : typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value)
const changes = computed(() => [
  ...(view.value?.refused ?? []).map(({ line, reason }) => ({
    device: lineWords(line),
    what: '',
    change: reason,
    refused: true,
  })),
  ...(view.value?.labels ?? []).map(({ device, label, before, after }) => ({
    device,
    what: label.replaceAll('_', ' '),
    change: `${wordOf(before)} → ${wordOf(after)}`,
    refused: false,
  })),
  ...(view.value?.facts ?? []).map(({ device, fact, before, after }) => ({
    device,
    what: fact,
    change: `${wordOf(before)} → ${after}`,
    refused: false,
  })),
])
const columns: Column<(typeof changes.value)[number]>[] = [
  { key: 'device', title: t('common.device'), value: ({ device }) => device },
  { key: 'what', title: t('estate.label'), value: ({ what }) => what },
  { key: 'change', title: t('common.result'), value: ({ change }) => change },
]
</script>

<template>
  <section class="panel block">
    <h2>{{ $t('estate.deviceLists') }}</h2>
    <ProblemNote :text="problem" />
    <p>
      <a :href="addressOf(exportDevices)" download>{{ $t('estate.exportDevicesWithFactsAnd') }}</a>
    </p>
    <template v-if="engagement.may.describe">
      <label class="file"
        >{{ $t('estate.importAListCsv') }} <input type="file" accept=".csv,text/csv" @change="take"
      /></label>
      <template v-if="view">
        <p role="status">
          {{
            $t('estate.labelsFacts', {
              applied: view.applied ? $t('estate.imported') : $t('estate.wouldChange', { name }),
              labels: view.labels.length,
              facts: view.facts.length,
            })
          }}<template v-if="view.refused.length > 0">{{
            $t('estate.cellsRefused', { refused: view.refused.length })
          }}</template
          >.
        </p>
        <div v-if="!view.applied" class="many">
          <DataTable
            headless
            :label="name"
            :rows="changes"
            :columns="columns"
            :row-class="({ refused }) => ({ bad: refused })"
          />
        </div>
        <div v-if="!view.applied && view.labels.length + view.facts.length > 0">
          <v-btn variant="flat" size="small" @click="read(true)">{{ $t('estate.importList') }}</v-btn>
          <v-btn variant="text" size="small" @click="view = null">{{ $t('common.cancel') }}</v-btn>
        </div>
      </template>
    </template>
  </section>
</template>

<style scoped>
.block {
  padding: 12px 16px;
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}
input[type='file'] {
  font: inherit;
}
.file {
  display: inline-flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
.many {
  max-height: 260px;
  overflow: auto;
  border: var(--hair);
  border-radius: 3px;
}
:deep(.bad) td {
  color: rgb(var(--v-theme-fail));
}
</style>
