<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import {
  type WindowRow,
  type WindowState,
  addWindow,
  downloadWindowReport,
  getWindow,
  listWindows,
  setWindowSnapshots,
  stepWindow,
} from '@jurybox/api/windows'
import { listChecks } from '@jurybox/api/checks'
import { listDevices } from '@jurybox/api/devices'
import { computed, onBeforeUnmount, reactive, ref, watch } from 'vue'
import { addressOf, call } from '../api/client.ts'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import DateField from '../shared/DateField.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import TimeField from '../shared/TimeField.vue'
import type { Column } from '../shared/columns.ts'
import { useAddress } from '../shared/address.ts'
import { useQuery } from '../shared/query.ts'
import { absoluteTime, dayOf } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import ChangesHead from './ChangesHead.vue'
import WindowResults from './WindowResults.vue'

/** Change windows: planned, collected before and after, checked until their checks are steady. */
const engagement = useEngagement()
const { text, ask } = useAddress()
const { data: windows, problem, attempt, fields, load } = useQuery(listWindows, () => ({}))
const chosen = computed(() => {
  const id = Number(text('window'))
  return (windows.value ?? []).some((one) => one.id === id) ? id : null
})
const {
  data: view,
  problem: unseen,
  reading,
  stop,
  load: reload,
} = useQuery(getWindow, () => (chosen.value === null ? null : { params: { window: chosen.value } }), { afresh: true })
const open = (id: number | null): void => ask({ window: id === null ? null : String(id) })

/* A window moves on by itself */
const MOVES: readonly WindowState[] = ['before', 'after', 'settling']
const timer = setInterval(() => {
  if (!(windows.value ?? []).some(({ state }) => MOVES.includes(state))) return
  void load()
  void reload()
  void engagement.refresh()
}, 3000)
onBeforeUnmount(() => clearInterval(timer))

const STATES: Readonly<Record<WindowState, string>> = {
  planned: t('changes.windowPlanned'),
  before: t('changes.windowBefore'),
  open: t('changes.windowOpen'),
  after: t('changes.windowAfter'),
  settling: t('changes.windowSettling'),
  closed: t('changes.windowClosed'),
  cancelled: t('changes.windowCancelled'),
}
const columns: Column<WindowRow>[] = [
  { key: 'title', title: t('common.title'), value: ({ title }) => title },
  { key: 'state', title: t('common.state'), value: ({ state }) => STATES[state], width: '16%' },
  { key: 'beginsAt', title: t('changes.begins'), value: ({ beginsAt }) => absoluteTime(beginsAt), nowrap: true },
  { key: 'endsAt', title: t('changes.ends'), value: ({ endsAt }) => absoluteTime(endsAt), nowrap: true },
  { key: 'devices', title: t('common.devices'), value: ({ devices }) => devices.length, numeric: true },
  { key: 'createdBy', title: t('changes.plannedBy'), value: ({ createdBy }) => createdBy },
]

const FORMATS = [
  ['html', 'HTML'],
  ['pdf', 'PDF'],
  ['md', 'Markdown'],
] as const
type Step = 'begin' | 'end' | 'check' | 'cancel'
const steps = computed((): { does: Step; title: string }[] => {
  switch (view.value?.state) {
    case 'planned':
      return [
        { does: 'cancel', title: t('changes.cancelWindow') },
        { does: 'begin', title: t('changes.beginWindow') },
      ]
    case 'open':
      return [
        { does: 'cancel', title: t('changes.cancelWindow') },
        { does: 'end', title: t('changes.endWindow') },
      ]
    case 'settling':
    case 'closed':
      return [{ does: 'check', title: t('changes.checkAgain') }]
    default:
      return []
  }
})
async function move(does: Step): Promise<void> {
  const id = chosen.value
  if (id === null || !(await attempt(() => call(stepWindow, { params: { window: id }, body: { do: does } })))) return
  // The server begins at once; what it says is asked for a moment later.
  setTimeout(() => void Promise.all([load(), reload()]), 400)
}

/* Snapshots that were taken some other way */
const picked = reactive<{ before: number | null; after: number | null }>({ before: null, after: null })
watch(view, (now) => Object.assign(picked, { before: now?.before?.id ?? null, after: now?.after?.id ?? null }))
const snapshots = computed(() => [
  { value: null, title: t('common.none') },
  ...engagement.snapshots.toReversed().map(({ id, title }) => ({ value: id, title })),
])
async function pick(): Promise<void> {
  const id = chosen.value
  if (id === null) return
  if (await attempt(() => call(setWindowSnapshots, { params: { window: id }, body: { ...picked } }))) await reload()
}

/* Planning */
const planning = ref(false)
const { data: estate } = useQuery(listDevices, () =>
  planning.value && engagement.b ? { query: { snapshot: engagement.b.id } } : null,
)
const { data: shelf } = useQuery(listChecks, () => (planning.value ? {} : null))
const blank = () => ({
  title: '',
  reason: '',
  beginsOn: dayOf(Date.now()),
  beginsAt: '22:00',
  endsOn: dayOf(Date.now()),
  endsAt: '23:00',
  devices: [] as string[],
  checks: null as string | null,
})
const form = reactive(blank())
const isWhole = computed(() => form.title.trim() !== '' && form.devices.length > 0)
async function plan(): Promise<void> {
  const { beginsOn, beginsAt, endsOn, endsAt, ...more } = form
  const at = (day: string, time: string): string => `${day}T${time}:00Z`
  const body = { ...more, beginsAt: at(beginsOn, beginsAt), endsAt: at(endsOn, endsAt) }
  let id = 0
  if (!(await attempt(async () => ({ id } = await call(addWindow, { body }))))) return
  planning.value = false
  Object.assign(form, blank())
  open(id)
}
</script>

<template>
  <div class="page">
    <ChangesHead :note="$t('changes.windowsNote')">
      <v-btn v-if="engagement.may.collect" variant="flat" :prepend-icon="mdiPlus" @click="planning = true">{{
        $t('changes.planWindow')
      }}</v-btn>
    </ChangesHead>
    <ProblemNote :text="planning ? '' : problem || unseen" />
    <EmptyPage
      v-if="windows && windows.length === 0"
      :title="$t('changes.noWindows')"
      :text="$t('changes.noWindowsText')"
    />
    <DataTable
      v-if="windows && windows.length > 0"
      class="panel"
      name="windows"
      :label="$t('changes.windows')"
      :rows="windows"
      :columns="columns"
      :row-class="({ id }) => ({ chosen: id === chosen })"
      opens
      @open="(row) => open(row.id === chosen ? null : row.id)"
    >
      <template #state="{ row }"
        ><b :class="row.state">{{ STATES[row.state] }}</b></template
      >
    </DataTable>
    <ReadingNote :reading="reading" @stop="stop()" />
    <section v-if="view" class="panel detail" :aria-label="view.title">
      <div class="detail-head">
        <div>
          <h2>{{ view.title }}</h2>
          <p class="quiet">
            {{ STATES[view.state] }} · {{ absoluteTime(view.beginsAt) }} – {{ absoluteTime(view.endsAt)
            }}<template v-if="view.reason"> · {{ view.reason }}</template>
          </p>
        </div>
        <template v-if="engagement.may.collect">
          <v-btn
            v-for="one in steps"
            :key="one.does"
            :variant="one.does === 'cancel' ? 'text' : 'flat'"
            @click="move(one.does)"
            >{{ one.title }}</v-btn
          >
        </template>
      </div>
      <p v-if="view.problem" class="loud" role="status">{{ view.problem }}</p>
      <WindowResults v-if="view.counts" :window="view" />
      <p v-else class="quiet">{{ $t('changes.noResultsYet') }}</p>
      <p v-if="view.counts" class="reports">
        <a
          v-for="[format, name] in FORMATS"
          :key="format"
          :href="addressOf(downloadWindowReport, { params: { window: view.id, format } })"
          download
          >{{ $t('changes.reportAs', { format: name }) }}</a
        >
      </p>
      <details v-if="engagement.may.collect" class="pick">
        <summary>{{ $t('changes.chooseSnapshots') }}</summary>
        <div class="pair">
          <v-select v-model="picked.before" :items="snapshots" :label="$t('changes.snapshotBefore')" hide-details />
          <v-select v-model="picked.after" :items="snapshots" :label="$t('changes.snapshotAfter')" hide-details />
          <v-btn variant="outlined" @click="pick">{{ $t('changes.useSnapshots') }}</v-btn>
        </div>
      </details>
    </section>
    <ModalDialog v-if="planning" v-model="planning" :title="$t('changes.planWindow')">
      <ProblemNote :text="problem" />
      <div class="form">
        <v-text-field v-model="form.title" :label="$t('common.title')" :error-messages="fields['title']" autofocus />
        <v-textarea v-model="form.reason" :label="$t('common.reason')" rows="2" />
        <div class="times">
          <DateField v-model="form.beginsOn" :label="$t('changes.beginsOn')" :error-messages="fields['beginsAt']" />
          <TimeField v-model="form.beginsAt" :label="$t('changes.beginsAtUtc')" />
          <DateField v-model="form.endsOn" :label="$t('changes.endsOn')" :error-messages="fields['endsAt']" />
          <TimeField v-model="form.endsAt" :label="$t('changes.endsAtUtc')" />
        </div>
        <v-autocomplete
          v-model="form.devices"
          :items="(estate?.devices ?? []).map(({ name }) => name)"
          :label="$t('changes.plannedDevices')"
          :error-messages="fields['devices']"
          multiple
          chips
          closable-chips
        />
        <v-select
          v-model="form.checks"
          :items="[
            { value: null, title: $t('common.none') },
            ...(shelf?.sets ?? []).map(({ id, title }) => ({ value: id, title })),
          ]"
          :label="$t('changes.checkSet')"
        />
      </div>
      <template #actions>
        <v-btn variant="text" @click="planning = false">{{ $t('common.cancel') }}</v-btn>
        <v-btn variant="flat" :disabled="!isWhole" @click="plan">{{ $t('changes.planWindow') }}</v-btn>
      </template>
    </ModalDialog>
  </div>
</template>

<style scoped>
.detail {
  padding: 14px 16px;
  margin-top: 12px;
}
.detail-head {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.detail-head > div {
  flex: 1 1 260px;
}
h2 {
  font-size: 16px;
}
.loud {
  color: rgb(var(--v-theme-fail));
  font-weight: 600;
}
.open,
.settling,
.before,
.after {
  color: rgb(var(--v-theme-primary));
}
.reports {
  display: flex;
  gap: 16px;
  margin-top: 12px;
}
.pick {
  margin-top: 10px;
}
.pick summary {
  cursor: pointer;
  min-height: 24px;
}
.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
  margin-top: 8px;
}
.form {
  display: grid;
  gap: 12px;
  padding-top: 12px;
}
.times {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>
