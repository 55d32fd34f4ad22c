<script setup lang="ts">
import { t } from '../messages/index.ts'
import { getAudit, getGrid } from '@jurybox/api/audits'
import { listReportFormats, downloadReport, previewReport, downloadCommands } from '@jurybox/api/reports'
import { BarElement, CategoryScale, Chart, LinearScale, Tooltip, type ChartData, type ChartOptions } from 'chart.js'
import { AUDIENCE_IDS, type Audience } from '@jurybox/core/report'
import { computed, ref } from 'vue'
import { Bar } from 'vue-chartjs'
import { useTheme } from 'vuetify'
import { downloadConfirmed, addressOf } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import VerdictMark from '../shared/VerdictMark.vue'
import { OUTCOMES } from '../shared/outcomes.ts'
import { useEngagement } from '../stores/engagement.ts'
import ReportsHead from './ReportsHead.vue'
import ScoreTrend from './ScoreTrend.vue'

Chart.register(BarElement, CategoryScale, LinearScale, Tooltip)

/** The evidence report of the audit as of B: to read here, and to download. */
const engagement = useEngagement()
const theme = useTheme()
const asked = () => (engagement.audit ? { params: { audit: engagement.audit.id } } : null)
const { data: audit, problem: unread } = useQuery(getAudit, asked, { afresh: true })
const { data: grid, problem: ungridded } = useQuery(getGrid, asked, { afresh: true })
const { data: formats, problem: unlisted } = useQuery(listReportFormats, () => ({}))
const { problem: refused, attempt } = useAttempt()
const problem = computed(() => refused.value || unread.value || ungridded.value || unlisted.value)
const ofAudit = computed(() => ({ params: { audit: audit.value?.id ?? 0 } }))
/* For whom it is, and what its first page says. */
const AUDIENCE_TITLES: Readonly<Record<Audience, string>> = {
  technical: t('reports.audienceTechnical'),
  management: t('reports.audienceManagement'),
  assessor: t('reports.audienceAssessor'),
  remediation: t('reports.audienceRemediation'),
}
const audiences = AUDIENCE_IDS.map((value) => ({ value, title: AUDIENCE_TITLES[value] }))
const audience = ref<Audience>('technical')
const auditor = ref('')
const confidentiality = ref('')
const choice = computed(() => ({
  ...(audience.value === 'technical' ? {} : { audience: audience.value }),
  ...(auditor.value === '' ? {} : { auditor: auditor.value }),
  ...(confidentiality.value === '' ? {} : { confidentiality: confidentiality.value }),
}))
const previewed = computed(() =>
  addressOf(previewReport, {
    ...ofAudit.value,
    query: { ...choice.value, theme: theme.current.value.dark ? 'dark' : 'light' },
  }),
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
      label: t('reports.fail'),
      data: byTopic.value.map(([, counts]) => counts.fail),
      backgroundColor: colours.value['fail'],
      barThickness: 12,
    },
    {
      label: t('reports.unknown'),
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
  byTopic.value
    .map(([topic, counts]) => t('reports.failUnknown', { topic, fail: counts.fail, unknown: counts.unknown }))
    .join('; '),
)
</script>

<template>
  <div class="page">
    <ReportsHead :note="$t('reports.evidenceReportsWithTheRemediation')" />
    <ProblemNote :text="problem" />
    <EmptyPage
      v-if="!engagement.audit && !problem"
      :title="$t('reports.noAuditToReportOn')"
      :text="$t('reports.aReportNeedsAnAudit')"
      ><v-btn variant="flat" to="verdicts">{{ $t('common.viewVerdicts') }}</v-btn></EmptyPage
    >
    <div v-else-if="audit" class="layout">
      <aside class="side">
        <section class="panel block">
          <h2>{{ $t('reports.thisReport') }}</h2>
          <p>{{ audit.snapshot.title }}</p>
          <p class="quiet">
            {{ $t('reports.evidence') }} <AgeText :at="audit.snapshot.takenAt" />{{ $t('reports.audited') }}
            <AgeText :at="audit.finishedAt" />
          </p>
          <p class="quiet">{{ audit.choices.map((choice) => `${choice.title}, ${choice.profileTitle}`).join('; ') }}</p>
          <ul class="counts">
            <li v-for="outcome in OUTCOMES" :key="outcome">
              <b>{{ audit.counts?.[outcome] }}</b><VerdictMark :outcome="outcome" />
            </li>
          </ul>
        </section>
        <section class="panel block contents">
          <h2>{{ $t('reports.contents') }}</h2>
          <v-select v-model="audience" :items="audiences" :label="$t('reports.audience')" hide-details />
          <v-text-field v-model.lazy="auditor" :label="$t('reports.auditor')" maxlength="160" hide-details />
          <v-text-field
            v-model.lazy="confidentiality"
            :label="$t('reports.confidentiality')"
            maxlength="160"
            hide-details
          />
        </section>
        <section class="panel block">
          <h2>{{ $t('reports.download') }}</h2>
          <ul class="forms">
            <li v-for="{ form, title, what } in formats" :key="form">
              <a
                :href="addressOf(downloadReport, { params: { audit: audit.id, format: form }, query: choice })"
                :download="`audit-${audit.id}.${form}`"
                >{{ title }}</a>{{ ' ' }}
              <span class="quiet">{{ what }}</span>
            </li>
          </ul>
          <p v-if="engagement.may.exportSecrets" class="secret">
            <a
              :href="addressOf(downloadCommands, ofAudit)"
              download
              @click.prevent="attempt(() => downloadConfirmed(addressOf(downloadCommands, ofAudit)))"
              >{{ $t('reports.commandsWithRealSecrets') }}</a>{{ ' ' }}
            <span class="quiet">{{ $t('reports.theDownloadIsLoggedWith') }}</span>
          </p>
        </section>
        <!-- Comes when its scores have: below what someone may be about to click. -->
        <ScoreTrend />
        <section class="panel block">
          <h2>{{ $t('reports.failuresByTopic') }}</h2>
          <div class="chart" :style="{ height: `${60 + byTopic.length * 24}px` }">
            <Bar :data="chart" :options="options" role="img" :aria-label="chartWords" />
          </div>
        </section>
      </aside>
      <iframe class="preview panel" :src="previewed" :title="$t('reports.previewOfTheReport')" sandbox="" />
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
.contents {
  display: grid;
  gap: 8px;
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
  height: max(300px, 100vh - 190px);
  min-height: 420px;
  background: rgb(var(--v-theme-surface));
}
@media (max-width: 900px) {
  .layout {
    grid-template-columns: 1fr;
  }
}
</style>
