<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, wordsOf } from '../api/client.ts'
import type { DeviceView, VerdictRow } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { OUTCOMES } from '../shared/outcomes.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'

/** One device: its facts, records, interfaces and verdicts. */
const route = useRoute()
const router = useRouter()
const engagement = useEngagement()
const exhibit = useExhibit()
const device = ref<DeviceView | null>(null)
const verdicts = ref<(VerdictRow & { auditId: number })[]>([])
const problem = ref('')
const tab = computed({ get: () => String(route.query['tab'] ?? 'verdicts'), set: (tab) => void router.replace({ query: { ...route.query, tab } }) })
const sorted = computed(() => verdicts.value.toSorted((a, b) => OUTCOMES.indexOf(a.outcome) - OUTCOMES.indexOf(b.outcome)))

watch(
  [() => route.params['device'], () => engagement.b?.id],
  async ([id]) => {
    if (id === undefined) return
    try {
      const path = `${engagement.base}/devices/${String(id)}`
      const [view, rows] = await Promise.all([api.get<DeviceView>(path, { snapshot: engagement.b?.id }), api.get<(VerdictRow & { auditId: number })[]>(`${path}/verdicts`, { snapshot: engagement.b?.id })])
      device.value = view
      verdicts.value = rows
      problem.value = ''
      const wanted = Number(route.query['record']) || view.records.find((record) => record.kind === 'config')?.id
      const line = Number(route.query['line'])
      if (wanted) await exhibit.show(wanted, line > 0 ? [{ from: line, to: line, absent: false }] : [])
    } catch (error) {
      problem.value = wordsOf(error)
    }
  },
  { immediate: true },
)

const running = computed(() => device.value?.records.find((record) => record.kind === 'config'))
function showLine(line: number): void {
  if (!running.value) return
  if (!exhibit.open) exhibit.toggle()
  void exhibit.show(running.value.id, [{ from: line, to: line, absent: false }])
}
const facts = computed(() => {
  const f = device.value?.facts
  if (!f) return []
  const labels = Object.entries(f.labels ?? {}).map(([name, value]) => [name.replaceAll('_', ' '), String(value)] as const)
  return ([['Site', f.site], ['Role', f.role], ['Model', f.model], ['Software', [f.os, f.version].filter(Boolean).join(' ')], ['Management address', f.managementAddress], ['Dialect', device.value?.dialect], ...labels] as const).filter(([, value]) => value)
})
</script>

<template>
  <div class="page">
    <ProblemNote :text="problem" />
    <template v-if="device">
      <div class="page-head">
        <div class="grow">
          <p class="quiet"><router-link to="../estate">Estate</router-link> ▸</p>
          <h1>{{ device.name }}</h1>
        </div>
      </div>
      <dl class="facts panel">
        <div v-for="[name, value] in facts" :key="name"><dt class="quiet">{{ name }}</dt><dd>{{ value }}</dd></div>
      </dl>
      <v-tabs v-model="tab" density="compact">
        <v-tab value="verdicts">Verdicts ({{ verdicts.length }})</v-tab>
        <v-tab value="interfaces">Interfaces ({{ device.interfaces.length }})</v-tab>
        <v-tab value="lists">Access lists ({{ device.accessLists.length }})</v-tab>
        <v-tab value="records">Records ({{ device.records.length }})</v-tab>
      </v-tabs>
      <div class="panel">
        <table v-if="tab === 'verdicts'" class="rows">
          <thead><tr><th scope="col">Outcome</th><th scope="col">Severity</th><th scope="col">Rule</th></tr></thead>
          <tbody>
            <tr v-for="verdict in sorted" :key="verdict.id">
              <td><VerdictMark :outcome="verdict.outcome" /></td>
              <td><SeverityNotches :severity="verdict.severity" /></td>
              <td><router-link :to="`/e/${engagement.id}/verdicts/${verdict.auditId}/${verdict.id}`">{{ verdict.rule }}</router-link><div class="quiet">{{ verdict.note }}</div></td>
            </tr>
            <tr v-if="verdicts.length === 0"><td colspan="3" class="quiet">This device has not been judged as of this snapshot.</td></tr>
          </tbody>
        </table>
        <table v-else-if="tab === 'interfaces'" class="rows">
          <thead><tr><th scope="col">Interface</th><th scope="col">Description</th><th scope="col">Addresses</th><th scope="col">State</th></tr></thead>
          <tbody>
            <tr v-for="port in device.interfaces" :key="port.name">
              <td><button type="button" class="as-link" @click="showLine(port.line)">{{ port.name }}</button></td>
              <td>{{ port.description ?? '' }}</td>
              <td class="mono">{{ port.addresses.join(' ') }}</td>
              <td>{{ port.enabled ? 'enabled' : 'shut down' }}</td>
            </tr>
          </tbody>
        </table>
        <table v-else-if="tab === 'lists'" class="rows">
          <thead><tr><th scope="col">List</th><th scope="col">Family</th><th scope="col" class="num">Entries</th></tr></thead>
          <tbody>
            <tr v-for="list in device.accessLists" :key="list.family + list.name"><td><button type="button" class="as-link" @click="showLine(list.line)">{{ list.name }}</button></td><td>{{ list.family }}</td><td class="num">{{ list.entries }}</td></tr>
          </tbody>
        </table>
        <table v-else class="rows">
          <thead><tr><th scope="col">Record</th><th scope="col" class="num">Lines</th><th scope="col" class="num">Not understood</th><th scope="col">Taken</th></tr></thead>
          <tbody>
            <tr v-for="record in device.records" :key="record.id">
              <td><button type="button" class="as-link" @click="exhibit.show(record.id)">{{ record.title }}</button><div class="quiet">{{ record.path }}</div></td>
              <td class="num">{{ record.lineCount }}</td><td class="num">{{ record.unread }}</td>
              <td><AgeText :at="record.takenAt" :source="record.timeSource" /><span v-if="record.carried" class="quiet"> carried over</span></td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
  </div>
</template>

<style scoped>
.facts { display: flex; flex-wrap: wrap; gap: 8px 28px; padding: 10px 14px; margin: 0 0 12px; }
.facts dt { font-size: 12.5px; }
.facts dd { margin: 0; }
</style>
