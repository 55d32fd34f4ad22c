<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, wordsOf } from '../api/client.ts'
import type { VerdictPage, VerdictRow } from '../api/types.ts'
import DataSheet, { type Column } from '../shared/DataSheet.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useSheetQuery } from '../shared/sheet-query.ts'
import { useEngagement } from '../stores/engagement.ts'

/** Verdicts as a list, the gravest first; the server sorts, filters, counts and exports all of them. */
const props = defineProps<{ auditId: number }>()
const engagement = useEngagement()
const route = useRoute()
const router = useRouter()
const rows = ref<VerdictRow[]>([])
const total = ref(0)
const before = ref<string | null>(null)
const problem = ref('')
const busy = ref(false)
const sheet = useSheetQuery('verdicts')
const asked = computed(() => ({
  outcome: String(route.query['outcome'] ?? ''),
  since: String(route.query['since'] ?? ''),
  requirement: String(route.query['requirement'] ?? ''),
}))
const path = computed(() => `${engagement.base}/audits/${props.auditId}/verdicts`)
const csv = computed(() => {
  const { limit: _, offset: __, ...shown } = sheet.value
  const search = Object.entries({ ...asked.value, ...shown }).flatMap(([name, value]) =>
    value === '' ? [] : [[name, String(value)]],
  )
  return `/api${path.value}.csv?${new URLSearchParams(search)}`
})

let turn = 0
watch(
  [path, asked, sheet],
  async () => {
    const own = ++turn
    busy.value = true
    try {
      const answer = await api.get<VerdictPage>(path.value, { ...asked.value, ...sheet.value })
      // Something else was asked for meanwhile.
      if (own !== turn) return
      rows.value = answer.verdicts
      total.value = answer.total
      before.value = answer.before?.snapshot ?? null
      problem.value = ''
    } catch (error) {
      if (own === turn) problem.value = wordsOf(error)
    }
    if (own === turn) busy.value = false
  },
  { immediate: true },
)
const columns: Column<VerdictRow>[] = [
  {
    key: 'outcome',
    title: 'Outcome',
    value: (row) => (row.waived ? `${row.outcome}, waived` : row.outcome),
    width: '130px',
  },
  { key: 'severity', title: 'Severity', value: (row) => row.severity, width: '100px' },
  { key: 'device', title: 'Device', value: (row) => row.device },
  { key: 'rule', title: 'Rule', value: (row) => row.rule },
  { key: 'branch', title: 'Branch', value: (row) => row.branch, hidden: true },
  { key: 'note', title: 'Why', value: (row) => row.note },
]
const since = computed(() => [
  { value: '', title: 'All verdicts' },
  ...(before.value === null
    ? []
    : [
        { value: 'new', title: `New since “${before.value}”` },
        { value: 'open', title: `Still open since “${before.value}”` },
        { value: 'resolved', title: `Resolved since “${before.value}”` },
      ]),
])
function show(kind: string): void {
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
      <v-select :model-value="asked.since" :items="since" label="Show" class="since" @update:model-value="show" />
      <v-btn v-if="asked.outcome" size="small" @click="without('outcome')">Outcome {{ asked.outcome }} ✕</v-btn>
      <v-btn v-if="asked.requirement" size="small" @click="without('requirement')"
        >Requirement {{ asked.requirement }} ✕</v-btn
      >
    </div>
    <DataSheet
      name="verdicts"
      label="verdicts"
      :rows="rows"
      :columns="columns"
      :remote="{ total, csv, busy }"
      height="calc(100vh - 312px)"
      @open="(row) => router.push(`/e/${engagement.id}/verdicts/${auditId}/${row.id}`)"
    >
      <template #outcome="{ row }"><VerdictMark :outcome="row.outcome" :waived="row.waived" /></template>
      <template #severity="{ row }"><SeverityNotches :severity="row.severity" /></template>
      <template #rule="{ row }"
        ><router-link :to="`/e/${engagement.id}/verdicts/${auditId}/${row.id}`" tabindex="-1" @click.stop>{{
          row.rule
        }}</router-link></template
      >
    </DataSheet>
  </div>
</template>

<style scoped>
.since {
  max-width: 380px;
}
.tools {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  margin-bottom: 8px;
}
</style>
