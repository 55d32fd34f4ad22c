<script setup lang="ts">
import { t } from '../messages/index.ts'
import { getGrid } from '@jurybox/api/audits'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useAskedAction } from '../shared/asked-action.ts'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import VerdictMark from '../shared/VerdictMark.vue'
import { usePageKeys } from '../shared/keys.ts'
import { OUTCOMES, OUTCOME_TITLES } from '../shared/outcomes.ts'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useJobs } from '../stores/jobs.ts'
import RemediationView from './RemediationView.vue'
import RunAuditDialog from './RunAuditDialog.vue'
import ExpectedList from './ExpectedList.vue'
import VerdictGrid from './VerdictGrid.vue'
import VerdictList from './VerdictList.vue'
import WaiverList from './WaiverList.vue'

/** The verdicts as of B: a grid of rules by devices, or a list. */
const engagement = useEngagement()
const jobs = useJobs()
const route = useRoute()
const router = useRouter()
const { data: grid, problem } = useQuery(
  getGrid,
  () => (engagement.audit ? { params: { audit: engagement.audit.id } } : null),
  { afresh: true },
)
const running = ref(false)
useAskedAction('run-audit', () => engagement.may.run && (running.value = true))
const view = computed({
  get: () =>
    ['list', 'waivers', 'remediation'].includes(String(route.query['view'])) ? String(route.query['view']) : 'grid',
  set: (view) => void router.push({ query: { ...route.query, view } }),
})
/** What carries devices over is judged at once: the work may still run. */
const judging = computed(
  () => jobs.running.find(({ kind, params }) => kind === 'audit' && params['snapshotId'] === engagement.b?.id) ?? null,
)
const auditChoices = computed(() =>
  engagement.auditsOfB.map((audit) => ({
    value: audit.id,
    title: [
      audit.framework ?? audit.choices.map(({ title }) => title).join(', '),
      audit.scope?.title ?? t('verdicts.allDevicesWord'),
      audit.finishedAt ? absoluteTime(audit.finishedAt) : '',
    ]
      .filter(Boolean)
      .join(' · '),
  })),
)
const framework = computed(() => {
  const id = engagement.audit?.framework ?? null
  return id === null ? null : (grid.value?.frameworks.find((one) => one.id === id)?.title ?? id)
})
const counts = computed(() => engagement.audit?.counts ?? null)

function listOf(outcome: string): void {
  void router.push({ query: { ...route.query, view: 'list', outcome } })
}
usePageKeys([
  { key: 'g', does: t('verdicts.showTheGrid'), run: () => (view.value = 'grid') },
  { key: 'v', does: t('verdicts.showTheList'), run: () => (view.value = 'list') },
  { key: 't', does: t('verdicts.showRemediation'), run: () => (view.value = 'remediation') },
])
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>{{ $t('common.verdicts') }}</h1>
        <p v-if="engagement.audit" class="quiet">
          <strong v-if="framework">{{ $t('verdicts.forFramework', { title: framework }) }} </strong>
          <strong v-if="engagement.audit.scope"
            >{{ $t('verdicts.limitedTo', { scope: engagement.audit.scope.title }) }}
          </strong>
          {{
            $t('verdicts.on', {
              audit: engagement.audit.choices.map((choice) => `${choice.title}, ${choice.profileTitle}`).join('; '),
              title: engagement.b?.title,
            })
          }}
          <span v-if="engagement.audit.remembered > 0">{{
            $t('verdicts.ofDevicesUnchangedVerdictsReused', {
              remembered: engagement.audit.remembered,
              computed: engagement.audit.remembered + engagement.audit.computed,
            })
          }}</span>
        </p>
      </div>
      <v-select
        v-if="engagement.auditsOfB.length > 1"
        :model-value="engagement.audit?.id"
        :items="auditChoices"
        :label="$t('verdicts.audit')"
        class="which"
        @update:model-value="engagement.chosenAudit = $event"
      />
      <v-btn v-if="engagement.b && engagement.may.run" @click="running = true">{{ $t('common.runAudit') }}</v-btn>
      <v-btn v-if="engagement.audit" :to="`/e/${engagement.id}/verdicts/docket`">{{ $t('verdicts.docket') }}</v-btn>
      <v-btn v-if="engagement.audit" to="reports">{{ $t('verdicts.createReport') }}</v-btn>
    </div>
    <ProblemNote :text="problem" />
    <EmptyPage v-if="!engagement.b" :title="$t('verdicts.noSnapshotsYet')" :text="$t('verdicts.anAuditNeedsASnapshot')"
      ><v-btn variant="flat" to="snapshots">{{ $t('common.importConfigurations') }}</v-btn></EmptyPage
    >
    <EmptyPage
      v-else-if="!engagement.audit && judging"
      :title="$t('verdicts.auditRunning')"
      :text="$t('verdicts.ofDevicesOfDone', { done: judging.done, total: judging.total, title: engagement.b.title })"
    />
    <EmptyPage
      v-else-if="!engagement.audit"
      :title="$t('verdicts.noAuditYet')"
      :text="$t('verdicts.hasNotBeenAudited', { title: engagement.b.title })"
      ><v-btn v-if="engagement.may.run" variant="flat" @click="running = true">{{
        $t('common.runAudit')
      }}</v-btn></EmptyPage
    >
    <template v-else-if="counts">
      <div class="strip">
        <button
          v-for="outcome in OUTCOMES"
          :key="outcome"
          type="button"
          class="count"
          :aria-pressed="view === 'list' && route.query['outcome'] === outcome"
          :title="$t('verdicts.listVerdicts', { outcome: OUTCOME_TITLES[outcome] })"
          @click="listOf(outcome)"
        >
          <b :data-count="outcome">{{ counts[outcome] }}</b> <VerdictMark :outcome="outcome" />
        </button>
        <button
          type="button"
          class="count"
          :aria-pressed="view === 'list' && route.query['outcome'] === 'waived'"
          :title="$t('verdicts.listWaivedFindings')"
          @click="listOf('waived')"
        >
          <b data-count="waived">{{ grid?.cells.filter((cell) => cell.waived).length ?? 0 }}</b>{{ ' ' }}
          <VerdictMark outcome="waived" />
        </button>
        <span class="grow" />
        <v-btn-toggle
          v-model="view"
          mandatory
          density="compact"
          variant="outlined"
          color="primary"
          :aria-label="$t('common.view')"
          ><v-btn value="grid" size="small">{{ $t('verdicts.grid') }}</v-btn
          ><v-btn value="list" size="small">{{ $t('verdicts.list') }}</v-btn
          ><v-btn value="remediation" size="small">{{ $t('verdicts.remediation') }}</v-btn
          ><v-btn value="waivers" size="small">{{ $t('verdicts.waivers') }}</v-btn></v-btn-toggle
        >
      </div>
      <VerdictGrid v-if="view === 'grid' && grid" :grid="grid" :audit-id="engagement.audit.id" />
      <VerdictList v-if="view === 'list'" :audit-id="engagement.audit.id" />
      <ExpectedList v-if="view === 'grid' || view === 'list'" :frameworks="grid?.frameworks ?? []" />
      <RemediationView v-if="view === 'remediation' && grid" :grid="grid" :audit-id="engagement.audit.id" />
      <WaiverList v-if="view === 'waivers'" />
    </template>
    <RunAuditDialog v-model="running" />
  </div>
</template>

<style scoped>
.strip {
  display: flex;
  align-items: center;
  gap: 4px;
  flex-wrap: wrap;
  margin-bottom: 10px;
}
.grow {
  flex: 1;
}
.which {
  max-width: 340px;
  min-width: 220px;
  flex: none;
}
.count {
  display: inline-flex;
  gap: 7px;
  align-items: baseline;
  padding: 3px 6px;
  border: 1px solid transparent;
  border-radius: 3px;
  font: inherit;
  color: inherit;
  cursor: pointer;
  min-height: 28px;
}
.count:hover,
.count[aria-pressed='true'] {
  background: rgb(var(--v-theme-surface));
  border-color: rgb(var(--v-theme-rule));
}
.count b {
  font-size: 16px;
  font-weight: 600;
}
</style>
