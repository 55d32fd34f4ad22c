<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, wordsOf } from '../api/client.ts'
import type { VerdictRow } from '../api/types.ts'
import DataSheet, { type Column } from '../shared/DataSheet.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useEngagement } from '../stores/engagement.ts'

/** Verdicts as a list, the gravest first, with filters by outcome, device, rule, requirement and words. */
const props = defineProps<{ auditId: number }>()
const engagement = useEngagement()
const route = useRoute()
const router = useRouter()
const rows = ref<VerdictRow[]>([])
const total = ref(0)
const problem = ref('')
const PAGE = 500
const asked = computed(() => ({ outcome: String(route.query['outcome'] ?? ''), since: String(route.query['since'] ?? ''), requirement: String(route.query['requirement'] ?? '') }))

watch(
  [() => props.auditId, asked],
  async () => {
    try {
      const first = await api.get<{ total: number; verdicts: VerdictRow[] }>(`${engagement.base}/audits/${props.auditId}/verdicts`, { ...asked.value, limit: PAGE })
      rows.value = first.verdicts
      total.value = first.total
      problem.value = ''
    } catch (error) {
      problem.value = wordsOf(error)
    }
  },
  { immediate: true },
)
async function more(): Promise<void> {
  try {
    const next = await api.get<{ verdicts: VerdictRow[] }>(`${engagement.base}/audits/${props.auditId}/verdicts`, { ...asked.value, limit: PAGE, offset: rows.value.length })
    rows.value = [...rows.value, ...next.verdicts]
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
const SEVERITIES: Readonly<Record<string, number>> = { info: 1, low: 2, medium: 3, high: 4 }
const columns: Column<VerdictRow>[] = [
  { key: 'outcome', title: 'Outcome', value: (row) => (row.waived ? `${row.outcome}, waived` : row.outcome), width: '130px' },
  { key: 'severity', title: 'Severity', value: (row) => `${SEVERITIES[row.severity] ?? 0} ${row.severity}`, width: '100px' },
  { key: 'device', title: 'Device', value: (row) => row.device },
  { key: 'rule', title: 'Rule', value: (row) => row.rule },
  { key: 'branch', title: 'Branch', value: (row) => row.branch, hidden: true },
  { key: 'note', title: 'Why', value: (row) => row.note },
]
const SINCE = [{ value: '', title: 'Whenever it began' }, { value: 'new', title: 'New since the audit before' }, { value: 'open', title: 'Still open' }, { value: 'mended', title: 'Mended since the audit before' }]
function since(kind: string): void {
  void router.replace({ query: { ...route.query, since: kind === '' ? undefined : kind } })
}
function without(name: string): void {
  const { [name]: _, ...rest } = route.query
  void router.replace({ query: rest })
}
</script>

<template>
  <div>
    <ProblemNote :text="problem" />
    <div class="tools">
      <v-select :model-value="asked.since" :items="SINCE" label="Show" class="since" @update:model-value="since" />
      <v-btn v-if="asked.outcome" size="small" @click="without('outcome')">Outcome {{ asked.outcome }} ✕</v-btn>
      <v-btn v-if="asked.requirement" size="small" @click="without('requirement')">Requirement {{ asked.requirement }} ✕</v-btn>
    </div>
    <DataSheet name="verdicts" label="verdicts" :rows="rows" :columns="columns" height="calc(100vh - 312px)" @open="(row) => router.push(`/e/${engagement.id}/verdicts/${auditId}/${row.id}`)">
      <template #outcome="{ row }"><VerdictMark :outcome="row.outcome" :waived="row.waived" /></template>
      <template #severity="{ row }"><SeverityNotches :severity="row.severity" /></template>
      <template #rule="{ row }"><router-link :to="`/e/${engagement.id}/verdicts/${auditId}/${row.id}`" tabindex="-1" @click.stop>{{ row.rule }}</router-link></template>
    </DataSheet>
    <p v-if="rows.length < total" class="chips"><v-btn size="small" @click="more">{{ rows.length }} of {{ total }} loaded: load more</v-btn></p>
  </div>
</template>

<style scoped>
.since { max-width: 280px; }
.tools { display: flex; gap: 8px; align-items: center; flex-wrap: wrap; margin-bottom: 8px; }
.chips { display: flex; gap: 8px; margin: 0 0 8px; }
</style>
