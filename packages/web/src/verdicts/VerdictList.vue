<script setup lang="ts">
import { counted, t } from '../messages/index.ts'
import { type VerdictRow, exportVerdicts, listVerdicts } from '@jurybox/api/audits'
import type { QueryOf } from '@jurybox/api/endpoint'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { updateFindings } from '@jurybox/api/findings'
import { addressOf, call } from '../api/client.ts'
import DataSheet from '../shared/DataSheet.vue'
import type { Column } from '../shared/columns.ts'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useQuery } from '../shared/query.ts'
import { useSheetQuery } from '../shared/sheet-query.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useToasts } from '../stores/toasts.ts'
import FindingForm from './FindingForm.vue'
import WaiveManyDialog from './WaiveManyDialog.vue'

/** Verdicts as a list, the gravest first; the server sorts, filters, counts and exports all of them. */
const props = defineProps<{ auditId: number }>()
const engagement = useEngagement()
const toasts = useToasts()
const route = useRoute()
const router = useRouter()
const sheet = useSheetQuery('verdicts')
const asked = computed(() => ({
  outcome: String(route.query['outcome'] ?? ''),
  since: String(route.query['since'] ?? ''),
  only: String(route.query['only'] ?? ''),
  requirement: String(route.query['requirement'] ?? ''),
}))
const csv = computed(() => {
  const { limit: _, offset: __, ...shown } = sheet.value
  return addressOf(exportVerdicts, {
    params: { audit: props.auditId },
    query: { ...asked.value, ...shown } as QueryOf<typeof exportVerdicts>,
  })
})

const { data, problem, loading, load, attempt } = useQuery(listVerdicts, () => ({
  params: { audit: props.auditId },
  query: { ...asked.value, ...sheet.value } as QueryOf<typeof listVerdicts>,
}))
const rows = computed(() => data.value?.verdicts ?? [])
const total = computed(() => data.value?.total ?? 0)
const before = computed(() => data.value?.before?.snapshot ?? null)

/* What is done with those that are selected */
const selected = ref<(number | string)[]>([])
const chosen = computed(() => selected.value.map(Number))
const assigning = ref(false)
const waiving = ref(false)
watch(data, () => (selected.value = selected.value.filter((id) => rows.value.some((row) => row.id === id))))
const mark = (done: boolean) =>
  attempt(async () => {
    const came = await call(updateFindings, {
      params: { audit: props.auditId },
      body: { verdicts: chosen.value, done },
    })
    const { length } = came
    toasts.show(done ? counted('verdicts.markedDone', length) : counted('verdicts.markedOpen', length))
  })
function assigned(): void {
  assigning.value = false
  void load()
}

const columns: Column<VerdictRow>[] = [
  {
    key: 'outcome',
    title: t('common.outcome'),
    value: (row) => (row.waived ? t('verdicts.outcomeWaived', { outcome: row.outcome }) : row.outcome),
    width: '130px',
  },
  { key: 'severity', title: t('common.severity'), value: (row) => row.severity, width: '100px' },
  { key: 'device', title: t('common.device'), value: (row) => row.device },
  { key: 'rule', title: t('common.rule'), value: (row) => row.title },
  { key: 'branch', title: t('verdicts.branch'), value: (row) => row.branch, hidden: true },
  { key: 'note', title: t('common.reason'), value: (row) => row.note },
  { key: 'owner', title: t('verdicts.owner'), value: (row) => row.finding?.owner?.name ?? '', width: '120px' },
  { key: 'due', title: t('verdicts.due'), value: (row) => row.finding?.due ?? '', width: '110px' },
  { key: 'comment', title: t('verdicts.comment'), value: (row) => row.finding?.comment ?? '', hidden: true },
]
/** One choice: what has become of findings since the audit before, or what people said of them. */
const shown = computed(() => [
  { value: '', title: t('verdicts.allVerdicts') },
  { value: 'only=mine', title: t('verdicts.onlyMine') },
  { value: 'only=unassigned', title: t('verdicts.onlyUnassigned') },
  { value: 'only=overdue', title: t('verdicts.onlyOverdue') },
  { value: 'only=done', title: t('verdicts.onlyDone') },
  ...(before.value === null
    ? []
    : [
        { value: 'since=new', title: t('verdicts.newSinceSnapshot', { before: before.value }) },
        { value: 'since=open', title: t('verdicts.stillOpenSince', { before: before.value }) },
        { value: 'since=resolved', title: t('verdicts.resolvedSince', { before: before.value }) },
      ]),
])
const show = computed({
  get: () => (asked.value.only ? `only=${asked.value.only}` : asked.value.since ? `since=${asked.value.since}` : ''),
  set: (wanted) => {
    const [name = '', value] = wanted.split('=')
    const { since: _, only: __, ...rest } = route.query
    void router.push({ query: name === '' ? rest : { ...rest, [name]: value } })
  },
})
function without(name: string): void {
  const { [name]: _, ...rest } = route.query
  void router.push({ query: rest })
}
</script>

<template>
  <div>
    <ProblemNote :text="problem" />
    <div class="tools">
      <v-select v-model="show" :items="shown" :label="$t('verdicts.show')" class="since" />
      <v-btn v-if="asked.outcome" size="small" @click="without('outcome')">{{
        $t('verdicts.outcome', { outcome: asked.outcome })
      }}</v-btn>
      <v-btn v-if="asked.requirement" size="small" @click="without('requirement')">{{
        $t('verdicts.requirement', { requirement: asked.requirement })
      }}</v-btn>
    </div>
    <DataSheet
      name="verdicts"
      :label="$t('verdicts.verdicts')"
      :one="$t('verdicts.oneVerdict')"
      :rows="rows"
      :columns="columns"
      :remote="{ total, csv, busy: loading }"
      :selectable="engagement.may.remediate || engagement.may.waive"
      v-model:selected="selected"
      height="max(300px, 100vh - 312px)"
      @open="(row) => router.push(`/e/${engagement.id}/verdicts/${auditId}/${row.id}`)"
    >
      <template #bulk>
        <v-btn v-if="engagement.may.remediate" size="small" @click="assigning = true">{{
          $t('verdicts.assign')
        }}</v-btn>
        <v-btn v-if="engagement.may.waive" size="small" @click="waiving = true">{{ $t('verdicts.waive') }}</v-btn>
        <template v-if="engagement.may.remediate">
          <v-btn size="small" @click="mark(true)">{{ $t('verdicts.markDone') }}</v-btn>
          <v-btn size="small" @click="mark(false)">{{ $t('verdicts.markOpen') }}</v-btn>
        </template>
      </template>
      <template #due="{ row }"
        ><span :class="{ overdue: row.finding?.overdue }"
          >{{ row.finding?.due ?? '' }}{{ row.finding?.overdue ? ` ${$t('verdicts.overdue')}` : '' }}</span
        ></template
      >
      <template #owner="{ row }"
        >{{ row.finding?.owner?.name ?? ''
        }}<span v-if="row.finding?.done" class="quiet">{{ ` ${$t('verdicts.doneMark')}` }}</span></template
      >
      <template #outcome="{ row }"><VerdictMark :outcome="row.outcome" :waived="row.waived" /></template>
      <template #severity="{ row }"><SeverityNotches :severity="row.severity" /></template>
      <template #rule="{ row }"
        ><router-link :to="`/e/${engagement.id}/verdicts/${auditId}/${row.id}`" tabindex="-1" @click.stop>{{
          row.title
        }}</router-link></template
      >
    </DataSheet>
    <ModalDialog v-model="assigning" :title="$t('verdicts.assignFindings', chosen.length)">
      <FindingForm class="assign" :audit-id="auditId" :verdicts="chosen" :finding="null" @saved="assigned">
        <v-btn variant="text" size="small" @click="assigning = false">{{ $t('common.cancel') }}</v-btn>
      </FindingForm>
    </ModalDialog>
    <WaiveManyDialog v-if="waiving" v-model="waiving" :audit-id="auditId" :verdicts="chosen" @waived="load" />
  </div>
</template>

<style scoped>
.since {
  max-width: 380px;
}
.overdue {
  color: rgb(var(--v-theme-fail));
  font-weight: 600;
}
.assign {
  margin-top: 12px;
}
.tools {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
  margin-bottom: 8px;
}
</style>
