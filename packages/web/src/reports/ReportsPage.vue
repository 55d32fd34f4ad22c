<script setup lang="ts">
import { getAudit, getGrid } from '@jurybox/api/audits'
import {
  downloadCommands,
  downloadReport,
  listReportFormats,
  listReports,
  previewReport,
  type ReportChoice,
} from '@jurybox/api/reports'
import { computed, ref, watch } from 'vue'
import { useTheme } from 'vuetify'
import { downloadConfirmed, addressOf } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useMaking } from '../shared/making.ts'
import { useQuery } from '../shared/query.ts'
import VerdictMark from '../shared/VerdictMark.vue'
import { OUTCOMES } from '../shared/outcomes.ts'
import { useEngagement } from '../stores/engagement.ts'
import { NOTHING_CHOSEN, queryOf } from './choice.ts'
import FindingsImport from './FindingsImport.vue'
import ReportContents from './ReportContents.vue'
import ReportsHead from './ReportsHead.vue'
import SavedReports from './SavedReports.vue'
import TopicChart from './TopicChart.vue'
import ScoreTrend from './ScoreTrend.vue'

/** The evidence report of the audit as of B: to read here, and to download. */
const engagement = useEngagement()
const theme = useTheme()
const asked = () => (engagement.audit ? { params: { audit: engagement.audit.id } } : null)
const { data: audit, problem: unread } = useQuery(getAudit, asked, { afresh: true })
const { data: grid, problem: ungridded } = useQuery(getGrid, asked, { afresh: true })
const { data: formats, problem: unlisted } = useQuery(listReportFormats, () => ({}))
const { problem: refused, attempt } = useAttempt()
const { making, problem: unmade, make, stop } = useMaking()
const problem = computed(() => refused.value || unmade.value || unread.value || ungridded.value || unlisted.value)
const ofAudit = computed(() => ({ params: { audit: audit.value?.id ?? 0 } }))
const choice = ref<ReportChoice>(NOTHING_CHOSEN)
const query = computed(() => queryOf(choice.value))
const { data: reports, load: reload } = useQuery(listReports, () => ({}))
/** The preview is the same address with another picture of the client on it. */
const previews = ref(0)
async function relogo(): Promise<void> {
  await reload()
  previews.value++
}
const previewed = computed(() =>
  addressOf(previewReport, {
    ...ofAudit.value,
    query: { ...query.value, theme: theme.current.value.dark ? 'dark' : 'light' },
  }),
)

const waits = ref(true)
watch([previewed, previews], () => (waits.value = true))
const nameOf = (form: string) => `audit-${audit.value?.id ?? 0}.${form}`
const addressOfForm = (form: string) =>
  addressOf(downloadReport, { params: { audit: audit.value?.id ?? 0, format: form }, query: query.value })
const topics = computed(() => [...new Set(grid.value?.rules.map(({ topic }) => topic))].sort())
</script>

<template>
  <div class="page">
    <ReportsHead :note="$t('reports.evidenceReportsWithTheRemediation')">
      <FindingsImport v-if="audit && engagement.may.run" :audit="audit.id" />
    </ReportsHead>
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
        <ReportContents
          v-model="choice"
          :snapshot="audit.snapshot.id"
          :topics="topics"
          :has-logo="reports?.hasLogo ?? false"
          @logo="relogo"
        />
        <section class="panel block">
          <h2>{{ $t('reports.download') }}</h2>
          <ul class="forms">
            <li v-for="{ form, title, what } in formats" :key="form">
              <a
                :href="addressOfForm(form)"
                :download="nameOf(form)"
                @click.prevent="make(nameOf(form), addressOfForm(form))"
                >{{ title }}</a>{{ ' ' }}
              <span v-if="making.includes(nameOf(form))" class="making">
                <v-progress-circular indeterminate size="14" width="2" aria-hidden="true" />
                <v-btn
                  variant="tonal"
                  size="x-small"
                  :aria-label="$t('reports.stopMaking', { name: nameOf(form) })"
                  @click="stop(nameOf(form))"
                  >{{ $t('common.stop') }}</v-btn
                >
              </span>
              <span v-else class="quiet">{{ what }}</span>
            </li>
          </ul>
          <p class="sr" role="status">{{ making.map((name) => $t('reports.making', { name })).join(' ') }}</p>
          <p v-if="engagement.may.exportSecrets" class="secret">
            <a
              :href="addressOf(downloadCommands, ofAudit)"
              download
              @click.prevent="attempt(() => downloadConfirmed(addressOf(downloadCommands, ofAudit)))"
              >{{ $t('reports.commandsWithRealSecrets') }}</a>{{ ' ' }}
            <span class="quiet">{{ $t('reports.theDownloadIsLoggedWith') }}</span>
          </p>
        </section>
        <SavedReports
          v-if="reports && formats"
          :choice="choice"
          :formats="formats"
          :saved="reports.saved"
          :made="reports.made"
          @take="(taken) => (choice = taken)"
          @changed="reload"
        />
        <!-- Comes when its scores have: below what someone may be about to click. -->
        <ScoreTrend />
        <section class="panel block">
          <h2>{{ $t('reports.failuresByTopic') }}</h2>
          <TopicChart v-if="grid" :grid="grid" />
        </section>
      </aside>
      <div class="preview">
        <p v-if="waits" class="wait quiet" role="status">
          <v-progress-circular indeterminate size="16" width="2" aria-hidden="true" />
          {{ $t('reports.makingPreview') }}
        </p>
        <iframe
          :key="`${previews} ${previewed}`"
          class="panel"
          :src="previewed"
          :title="$t('reports.previewOfTheReport')"
          sandbox=""
          @load="waits = false"
        />
      </div>
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
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  gap: 8px;
}
.making {
  display: flex;
  align-items: center;
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
.preview {
  position: sticky;
  top: 100px;
}
.preview iframe {
  width: 100%;
  height: max(300px, 100vh - 190px);
  min-height: 420px;
  background: rgb(var(--v-theme-surface));
}
.wait {
  position: absolute;
  inset: 24px 24px auto;
  display: flex;
  gap: 10px;
  align-items: center;
}
@media (max-width: 900px) {
  .layout {
    grid-template-columns: 1fr;
  }
}
</style>
