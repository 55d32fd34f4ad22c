<script setup lang="ts">
import { type ListView, importDeviceList, exportDevices } from '@jurybox/api/labels'
import { ref } from 'vue'
import { call, addressOf } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'

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
          <table class="rows">
            <tbody>
              <tr v-for="one in view.refused" :key="`${one.line} ${one.reason}`" class="bad">
                <td>{{ $t('estate.line', { line: one.line }) }}</td>
                <td colspan="2">{{ one.reason }}</td>
              </tr>
              <tr v-for="one in view.labels" :key="`${one.device} ${one.label}`">
                <td>{{ one.device }}</td>
                <td>{{ one.label.replaceAll('_', ' ') }}</td>
                <td>{{ wordOf(one.before) }} → {{ wordOf(one.after) }}</td>
              </tr>
              <tr v-for="one in view.facts" :key="`${one.device} ${one.fact}`">
                <td>{{ one.device }}</td>
                <td>{{ one.fact }}</td>
                <td>{{ wordOf(one.before) }} → {{ one.after }}</td>
              </tr>
            </tbody>
          </table>
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
.bad td {
  color: rgb(var(--v-theme-fail));
}
</style>
