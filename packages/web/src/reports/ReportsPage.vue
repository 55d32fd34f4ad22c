<script setup lang="ts">
import { BarElement, CategoryScale, Chart, LinearScale, Tooltip, type ChartData, type ChartOptions } from 'chart.js'
import { computed, ref, watch } from 'vue'
import { Bar } from 'vue-chartjs'
import { useTheme } from 'vuetify'
import { api, downloadConfirmed, wordsOf } from '../api/client.ts'
import type { AuditView, GridView, ReportFormatView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { OUTCOMES } from '../shared/outcomes.ts'
import { useEngagement } from '../stores/engagement.ts'
import ScoreTrend from './ScoreTrend.vue'

Chart.register(BarElement, CategoryScale, LinearScale, Tooltip)

/** The evidence report of the audit as of B: to read here, and to download. */
const engagement = useEngagement()
const theme = useTheme()
const audit = ref<AuditView | null>(null)
const grid = ref<GridView | null>(null)
const problem = ref('')
const formats = ref<readonly ReportFormatView[]>([])
const path = computed(() => (audit.value ? `/api${engagement.base}/audits/${audit.value.id}` : ''))

watch(
  () => engagement.audit?.id,
  async (id) => {
    audit.value = null
    grid.value = null
    if (id === undefined) return
    try {
      ;[audit.value, grid.value, formats.value] = await Promise.all([
        api.get<AuditView>(`${engagement.base}/audits/${id}`),
        api.get<GridView>(`${engagement.base}/audits/${id}/grid`),
        api.get<ReportFormatView[]>('/report-formats'),
      ])
      problem.value = ''
    } catch (error) {
      problem.value = wordsOf(error)
    }
  },
  { immediate: true },
)

const byTopic = computed(() => {
  const topics = new Map<string, { fail: number; unknown: number }>()
  const topicOf = new Map(grid.value?.rules.map((rule) => [`${rule.benchmark} ${rule.id}`, rule.topic]))
  for (const cell of grid.value?.cells ?? []) {
    const topic = topicOf.get(`${cell.benchmark} ${cell.rule}`) ?? ''
    const counts = topics.get(topic) ?? { fail: 0, unknown: 0 }
    if (cell.outcome === 'fail') counts.fail++
    if (cell.outcome === 'unknown' || cell.outcome === 'error') counts.unknown++
    topics.set(topic, counts)
  }
  return [...topics].sort((a, b) => b[1].fail - a[1].fail)
})
const colours = computed(() => theme.current.value.colors as Record<string, string>)
const chart = computed<ChartData<'bar'>>(() => ({
  labels: byTopic.value.map(([topic]) => topic),
  datasets: [
    {
      label: 'fail',
      data: byTopic.value.map(([, counts]) => counts.fail),
      backgroundColor: colours.value['fail'],
      barThickness: 12,
    },
    {
      label: 'unknown',
      data: byTopic.value.map(([, counts]) => counts.unknown),
      backgroundColor: 'transparent',
      borderColor: colours.value['unknown'],
      borderWidth: 2,
      barThickness: 12,
    },
  ],
}))
const options = computed<ChartOptions<'bar'>>(() => ({
  indexAxis: 'y',
  animation: false,
  responsive: true,
  maintainAspectRatio: false,
  scales: {
    x: {
      stacked: true,
      ticks: { color: colours.value['on-surface'], precision: 0 },
      grid: { color: colours.value['rule'] },
    },
    y: {
      stacked: true,
      ticks: {
        color: colours.value['on-surface'],
        font: { family: '"Source Sans 3", sans-serif', size: 12 },
        autoSkip: false,
      },
      grid: { display: false },
    },
  },
}))
const chartWords = computed(() =>
  byTopic.value.map(([topic, counts]) => `${topic}: ${counts.fail} fail, ${counts.unknown} unknown`).join('; '),
)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>Reports</h1>
        <p class="quiet">
          Evidence with the remediation for each violation. Communities, passwords and keys are masked in every form.
        </p>
      </div>
    </div>
    <ProblemNote :text="problem" />
    <EmptyPage
      v-if="!engagement.audit && !problem"
      title="No audit to report on"
      text="A report is made of an audit. Run one on the snapshot as of which you are looking."
      ><v-btn variant="flat" to="verdicts">To the verdicts</v-btn></EmptyPage
    >
    <div v-else-if="audit" class="layout">
      <aside class="side">
        <section class="panel block">
          <h2>This report</h2>
          <p>{{ audit.snapshot.title }}</p>
          <p class="quiet">
            evidence <AgeText :at="audit.snapshot.takenAt" />, judged <AgeText :at="audit.finishedAt" />
          </p>
          <p class="quiet">{{ audit.choices.map((choice) => `${choice.benchmark}, ${choice.profile}`).join('; ') }}</p>
          <ul class="counts">
            <li v-for="outcome in OUTCOMES" :key="outcome">
              <b>{{ audit.counts[outcome] }}</b><VerdictMark :outcome="outcome" />
            </li>
          </ul>
        </section>
        <section class="panel block">
          <h2>Download</h2>
          <ul class="forms">
            <li v-for="{ form, title, what } in formats" :key="form">
              <a :href="`${path}/report.${form}`" :download="`audit-${audit.id}.${form}`">{{ title }}</a>{{ ' ' }}
              <span class="quiet">{{ what }}</span>
            </li>
          </ul>
          <p v-if="engagement.may.takeCommands" class="secret">
            <a :href="`${path}/commands.txt`" download @click.prevent="downloadConfirmed(`${path}/commands.txt`)"
              >Commands with real secrets</a
            >{{ ' ' }}
            <span class="quiet">the download is logged with your name</span>
          </p>
        </section>
        <!-- Comes when its scores have: below what someone may be about to click. -->
        <ScoreTrend />
        <section class="panel block">
          <h2>Where it fails</h2>
          <div class="chart" :style="{ height: `${60 + byTopic.length * 24}px` }">
            <Bar :data="chart" :options="options" role="img" :aria-label="chartWords" />
          </div>
        </section>
      </aside>
      <iframe class="preview panel" :src="`${path}/preview`" title="Preview of the report" sandbox="" />
    </div>
  </div>
</template>

<style scoped>
.layout {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr);
  gap: 14px;
  align-items: start;
}
.side {
  display: grid;
  gap: 14px;
  grid-template-columns: minmax(0, 1fr);
}
.block {
  padding: 14px 16px;
}
.counts,
.forms {
  list-style: none;
  padding: 0;
  margin: 8px 0 0;
  display: grid;
  gap: 3px;
}
.forms li {
  display: flex;
  gap: 8px;
}
.counts b {
  display: inline-block;
  min-width: 34px;
  text-align: right;
  margin-right: 10px;
}
.secret {
  margin-top: 10px;
  padding-top: 8px;
  border-top: var(--hair);
  display: grid;
}
.chart {
  position: relative;
  margin-top: 8px;
}
.preview {
  width: 100%;
  height: calc(100vh - 190px);
  min-height: 420px;
  background: #fffdf8;
}
@media (max-width: 900px) {
  .layout {
    grid-template-columns: 1fr;
  }
}
</style>
