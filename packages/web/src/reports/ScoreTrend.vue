<script setup lang="ts">
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
import { computed, ref, watch } from 'vue'
import { Line } from 'vue-chartjs'
import { useTheme } from 'vuetify'
import { api, wordsOf } from '../api/client.ts'
import type { ScoresView } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useEngagement } from '../stores/engagement.ts'

Chart.register(CategoryScale, Legend, LineElement, LinearScale, PointElement, Tooltip)

/** The score of each benchmark, from audit to audit, with the formula that it is made by. */
const engagement = useEngagement()
const theme = useTheme()
const view = ref<ScoresView | null>(null)
const problem = ref('')
watch(
  () => engagement.audits.length,
  async () => {
    try {
      view.value = await api.get<ScoresView>(`${engagement.base}/scores`)
      problem.value = ''
    } catch (error) {
      problem.value = wordsOf(error)
    }
  },
  { immediate: true },
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
const shareOf = (audit: ScoresView['audits'][number], benchmark: string): number | null => {
  const flat = audit.scores.find((score) => score.benchmark === benchmark)?.flat
  return flat && flat.of > 0 ? Math.round((1000 * flat.points) / flat.of) / 10 : null
}
const latest = computed(() => audits.value.find(({ id }) => id === engagement.audit?.id) ?? audits.value.at(-1) ?? null)
const colours = computed(() => theme.current.value.colors as Record<string, string>)
const DASHES = [[], [6, 3], [2, 3]]
const data = computed<ChartData<'line', (number | null)[], string>>(() => ({
  labels: audits.value.map(({ takenAt }) => takenAt.slice(0, 10)),
  datasets: benchmarks.value.map((benchmark, i) => ({
    label: benchmark,
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
    .map(
      (benchmark) =>
        `${benchmark}: ${audits.value.map((audit) => `${audit.takenAt.slice(0, 10)} ${shareOf(audit, benchmark) ?? 'not judged'}`).join(', ')}`,
    )
    .join('; '),
)
</script>

<template>
  <section v-if="latest && benchmarks.length > 0" class="panel block">
    <h2>Score</h2>
    <ProblemNote :text="problem" />
    <ul class="now">
      <li v-for="score in latest.scores.filter(({ flat }) => flat.of > 0)" :key="score.benchmark">
        <b>{{ shareOf(latest, score.benchmark) }} %</b> {{ score.benchmark }}
        <span class="quiet"
          >{{ score.flat.points }} of {{ score.flat.of
          }}<template v-if="score.weighted !== null">; weighted {{ score.weighted.toFixed(1) }}</template></span
        >
      </li>
    </ul>
    <div v-if="audits.length > 1" class="chart">
      <Line :data="data" :options="options" role="img" :aria-label="`Score by snapshot. ${words}`" />
    </div>
    <p v-else class="quiet">The trend begins with the audit of a second snapshot.</p>
    <details>
      <summary>How it is made</summary>
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
