<script setup lang="ts">
import { t } from '../messages/index.ts'
import { type ScoresView, listScores } from '@jurybox/api/audits'
import {
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
import { computed, watch } from 'vue'
import { Line } from 'vue-chartjs'
import { useTheme } from 'vuetify'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { grouped } from '../shared/numbers.ts'
import { useEngagement } from '../stores/engagement.ts'
import { dayOf } from '../shared/time.ts'

Chart.register(CategoryScale, Legend, LineElement, LinearScale, PointElement, Tooltip)

/** The score of each benchmark, from audit to audit, with the formula that it is made by. */
const engagement = useEngagement()
const theme = useTheme()
const { data: view, problem, load } = useQuery(listScores, () => ({}))
watch(
  () => engagement.audits.length,
  () => void load(),
)
/** Of several audits of one snapshot the last counts. */
const audits = computed(() =>
  [...new Map((view.value?.audits ?? []).map((audit) => [audit.snapshotId, audit])).values()].sort((a, b) =>
    a.takenAt < b.takenAt ? -1 : 1,
  ),
)
const benchmarks = computed(() => [
  ...new Set(
    audits.value.flatMap(({ scores }) => scores.filter(({ flat }) => flat.of > 0).map(({ benchmark }) => benchmark)),
  ),
])
const titleOf = (benchmark: string): string =>
  engagement.audits.flatMap(({ choices }) => choices).find((one) => one.benchmark === benchmark)?.title ?? benchmark
const shareOf = (audit: ScoresView['audits'][number], benchmark: string): number | null => {
  const flat = audit.scores.find((score) => score.benchmark === benchmark)?.flat
  return flat && flat.of > 0 ? Math.round((1000 * flat.points) / flat.of) / 10 : null
}
const latest = computed(() => audits.value.find(({ id }) => id === engagement.audit?.id) ?? audits.value.at(-1) ?? null)
const colours = computed(() => theme.current.value.colors as Record<string, string>)
const DASHES = [[], [6, 3], [2, 3]]
const data = computed<ChartData<'line', (number | null)[], string>>(() => ({
  labels: audits.value.map(({ takenAt }) => dayOf(takenAt)),
  datasets: benchmarks.value.map((benchmark, i) => ({
    label: titleOf(benchmark),
    data: audits.value.map((audit) => shareOf(audit, benchmark)),
    borderColor: colours.value['primary'] ?? '',
    backgroundColor: colours.value['primary'] ?? '',
    borderDash: DASHES[i % DASHES.length] ?? [],
    borderWidth: 2,
    pointRadius: 4,
  })),
}))
const options = computed<ChartOptions<'line'>>(() => ({
  animation: false,
  maintainAspectRatio: false,
  scales: {
    y: {
      min: 0,
      max: 100,
      ticks: { color: colours.value['quiet'] ?? '', callback: (value) => `${value} %` },
      grid: { color: colours.value['rule'] ?? '' },
    },
    x: { ticks: { color: colours.value['quiet'] ?? '' }, grid: { display: false } },
  },
  plugins: { legend: { display: benchmarks.value.length > 1, labels: { color: colours.value['on-surface'] ?? '' } } },
}))
const words = computed(() =>
  benchmarks.value
    .map((benchmark) => {
      const each = audits.value.map(
        (audit) => `${dayOf(audit.takenAt)} ${shareOf(audit, benchmark) ?? t('common.notJudged')}`,
      )
      return `${titleOf(benchmark)}: ${each.join(', ')}`
    })
    .join('; '),
)
</script>

<template>
  <section v-if="latest && benchmarks.length > 0" class="panel block">
    <h2>{{ $t('reports.score') }}</h2>
    <ProblemNote :text="problem" />
    <ul class="now">
      <li v-for="score in latest.scores.filter(({ flat }) => flat.of > 0)" :key="score.benchmark">
        <b>{{ shareOf(latest, score.benchmark) }} %</b> {{ titleOf(score.benchmark) }}
        <span class="quiet"
          >{{ $t('reports.of', { points: grouped(score.flat.points), flat: grouped(score.flat.of) })
          }}<template v-if="score.weighted !== null">{{
            $t('reports.weighted', { weighted: score.weighted.toFixed(1) })
          }}</template></span
        >
      </li>
    </ul>
    <div v-if="audits.length > 1" class="chart">
      <Line :data="data" :options="options" role="img" :aria-label="$t('reports.scoreBySnapshot', { words })" />
    </div>
    <p v-else class="quiet">{{ $t('reports.theTrendStartsWithA') }}</p>
    <details>
      <summary>{{ $t('reports.formula') }}</summary>
      <p class="quiet">{{ view?.formulas.flat }}</p>
      <p class="quiet">{{ view?.formulas.weighted }}</p>
    </details>
  </section>
</template>

<style scoped>
.block {
  padding: 14px 16px;
  display: grid;
  gap: 6px;
  grid-template-columns: minmax(0, 1fr);
}
.now {
  list-style: none;
  padding: 0;
  margin: 0;
}
.now b {
  font-size: 18px;
  margin-right: 6px;
}
.chart {
  position: relative;
  height: 150px;
}
summary {
  cursor: pointer;
  color: rgb(var(--v-theme-primary));
  min-height: 24px;
}
</style>
