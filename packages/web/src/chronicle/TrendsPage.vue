<script setup lang="ts">
import { getTrends } from '@jurybox/api/chronicle'
import {
  BarElement,
  CategoryScale,
  Chart,
  Legend,
  LineElement,
  LinearScale,
  PointElement,
  Tooltip,
  type ChartData,
  type ChartOptions,
} from 'chart.js'
import { computed } from 'vue'
import { Bar, Line } from 'vue-chartjs'
import { useTheme } from 'vuetify'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import type { Column } from '../shared/columns.ts'
import { useAddress } from '../shared/address.ts'
import { useQuery } from '../shared/query.ts'
import { dayOf } from '../shared/time.ts'
import type { ResponseOf } from '@jurybox/api/endpoint'
import ChronicleHead from './ChronicleHead.vue'

Chart.register(BarElement, CategoryScale, Legend, LineElement, LinearScale, PointElement, Tooltip)

/** Score, findings by severity, age, coverage and changes over time, of all devices, a site or a group. */
const theme = useTheme()
const { text, ask } = useAddress()
const {
  data: view,
  problem,
  reading,
  stop,
} = useQuery(getTrends, () => ({
  query: {
    ...(text('site') === null ? {} : { site: text('site') ?? '' }),
    ...(text('group') === null ? {} : { group: text('group') ?? '' }),
  },
}))
type Point = NonNullable<ResponseOf<typeof getTrends>>['points'][number]
const points = computed(() => view.value?.points ?? [])
const labels = computed(() => points.value.map(({ at }) => dayOf(at)))
const colours = computed(() => theme.current.value.colors as Record<string, string>)
const colour = (name: string): string => colours.value[name] ?? ''

function line(label: string, name: string, values: readonly (number | null)[], dash: number[] = []) {
  return {
    label,
    data: [...values],
    borderColor: colour(name),
    backgroundColor: colour(name),
    borderWidth: 2,
    borderDash: dash,
    pointRadius: 4,
  }
}
const score = computed((): ChartData<'line', (number | null)[], string> => ({
  labels: labels.value,
  datasets: [
    line(
      t('chronicle.score'),
      'primary',
      points.value.map((one) => one.score),
    ),
    line(
      t('chronicle.coverage'),
      'pass',
      points.value.map((one) => one.coverage),
      [6, 3],
    ),
  ],
}))
const SEVERITIES = [
  { id: 'high', name: 'fail', dash: [] },
  { id: 'medium', name: 'unknown', dash: [6, 3] },
  { id: 'low', name: 'primary', dash: [2, 3] },
  { id: 'info', name: 'quiet', dash: [1, 4] },
] as const
const WORDS = {
  high: t('chronicle.high'),
  medium: t('chronicle.medium'),
  low: t('chronicle.low'),
  info: t('chronicle.info'),
} as const
const findings = computed((): ChartData<'line', (number | null)[], string> => ({
  labels: labels.value,
  datasets: SEVERITIES.map(({ id, name, dash }) =>
    line(
      WORDS[id],
      name,
      points.value.map(({ severities }) => severities[id] ?? 0),
      [...dash],
    ),
  ),
}))
const age = computed((): ChartData<'line', (number | null)[], string> => ({
  labels: labels.value,
  datasets: [
    line(
      t('chronicle.age'),
      'brass',
      points.value.map(({ ageDays }) => ageDays),
    ),
  ],
}))
const changes = computed((): ChartData<'bar', number[], string> => ({
  labels: (view.value?.weeks ?? []).map(({ week }) => week),
  datasets: [
    {
      label: t('chronicle.changesPerWeek'),
      data: (view.value?.weeks ?? []).map((one) => one.changes),
      backgroundColor: colour('brass'),
      maxBarThickness: 36,
    },
  ],
}))
const FONT = { family: getComputedStyle(document.body).fontFamily }
const base = (shows: boolean) => ({
  animation: false as const,
  maintainAspectRatio: false,
  // A point at the very top is drawn in full.
  clip: 8,
  font: FONT,
  plugins: {
    legend: { display: shows, labels: { color: colour('on-surface'), font: FONT, boxWidth: 26, boxHeight: 2 } },
  },
})
const axes = (unit: string, max?: number) => ({
  y: {
    min: 0,
    ...(max === undefined ? {} : { max }),
    ticks: {
      color: colour('quiet'),
      font: FONT,
      precision: 0,
      callback: (value: string | number) => `${value}${unit}`,
    },
    grid: { color: colour('rule') },
  },
  x: { ticks: { color: colour('quiet'), font: FONT }, grid: { display: false } },
})
const share = computed((): ChartOptions<'line'> => ({ ...base(true), scales: axes(' %', 100) }))
const count = computed((): ChartOptions<'line'> => ({ ...base(true), scales: axes('') }))
const plain = computed((): ChartOptions<'line'> => ({ ...base(false), scales: axes('') }))
const bars = computed((): ChartOptions<'bar'> => ({ ...base(false), scales: axes('') }))
const columns: Column<Point>[] = [
  { key: 'at', title: t('common.time'), value: ({ at }) => dayOf(at), nowrap: true },
  { key: 'title', title: t('chronicle.snapshot'), value: ({ title }) => title },
  { key: 'score', title: t('chronicle.score'), value: (one) => (one.score === null ? '' : one.score), numeric: true },
  { key: 'high', title: WORDS.high, value: ({ severities }) => severities.high ?? 0, numeric: true },
  { key: 'medium', title: WORDS.medium, value: ({ severities }) => severities.medium ?? 0, numeric: true },
  { key: 'low', title: WORDS.low, value: ({ severities }) => severities.low ?? 0, numeric: true },
  { key: 'age', title: t('chronicle.age'), value: ({ ageDays }) => ageDays ?? '', numeric: true },
  { key: 'coverage', title: t('chronicle.coverage'), value: (one) => one.coverage, numeric: true },
  { key: 'devices', title: t('common.devices'), value: ({ devices }) => devices, numeric: true },
]
</script>

<template>
  <div class="page">
    <ChronicleHead :note="$t('chronicle.trendsNote')" />
    <div class="tools">
      <v-select
        :model-value="text('site')"
        :items="[
          { value: null, title: $t('chronicle.allSites') },
          ...(view?.sites ?? []).map((one) => ({ value: one, title: one })),
        ]"
        :label="$t('changes.site')"
        hide-details
        @update:model-value="ask({ site: $event, group: null })"
      />
      <v-select
        :model-value="text('group')"
        :items="[
          { value: null, title: $t('chronicle.allGroups') },
          ...(view?.groups ?? []).map((one) => ({ value: one, title: one })),
        ]"
        :label="$t('changes.group')"
        hide-details
        @update:model-value="ask({ group: $event, site: null })"
      />
    </div>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop()" />
    <template v-if="view">
      <p v-if="points.length === 0" class="quiet">{{ $t('chronicle.noAudits') }}</p>
      <div v-else class="charts">
        <section class="panel" :aria-label="$t('chronicle.score')">
          <h2>{{ $t('chronicle.scoreAndCoverage') }}</h2>
          <div class="chart">
            <Line :data="score" :options="share" :aria-label="$t('chronicle.scoreAndCoverage')" />
          </div>
        </section>
        <section class="panel" :aria-label="$t('chronicle.openFindings')">
          <h2>{{ $t('chronicle.openFindings') }}</h2>
          <div class="chart"><Line :data="findings" :options="count" :aria-label="$t('chronicle.openFindings')" /></div>
        </section>
        <section class="panel" :aria-label="$t('chronicle.changesPerWeek')">
          <h2>{{ $t('chronicle.changesPerWeek') }}</h2>
          <div class="chart"><Bar :data="changes" :options="bars" :aria-label="$t('chronicle.changesPerWeek')" /></div>
        </section>
        <section class="panel" :aria-label="$t('chronicle.age')">
          <h2>{{ $t('chronicle.age') }}</h2>
          <div class="chart"><Line :data="age" :options="plain" :aria-label="$t('chronicle.age')" /></div>
        </section>
      </div>
      <DataTable
        v-if="points.length > 0"
        class="panel"
        name="trends"
        :label="$t('chronicle.trends')"
        :rows="points"
        :columns="columns"
        :row-key="({ audit }) => audit"
      />
      <p class="quiet">{{ $t('chronicle.scoreFormula') }}</p>
    </template>
  </div>
</template>

<style scoped>
.tools {
  display: grid;
  grid-template-columns: minmax(150px, 240px) minmax(150px, 300px);
  gap: 8px;
  margin-bottom: 10px;
}
.charts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(380px, 1fr));
  gap: 12px;
  margin-bottom: 12px;
}
.charts .panel {
  padding: 10px 14px;
  min-width: 0;
}
.chart {
  height: 200px;
}
h2 {
  font-size: 15px;
}
</style>
