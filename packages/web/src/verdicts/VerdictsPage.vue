<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, wordsOf } from '../api/client.ts'
import type { GridView } from '../api/types.ts'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { usePageKeys } from '../shared/keys.ts'
import { OUTCOMES, OUTCOME_TITLES } from '../shared/outcomes.ts'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useJobs } from '../stores/jobs.ts'
import TidyingView from './TidyingView.vue'
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
const grid = ref<GridView | null>(null)
const problem = ref('')
const running = ref(false)
const view = computed({
  get: () =>
    ['list', 'waivers', 'tidying'].includes(String(route.query['view'])) ? String(route.query['view']) : 'grid',
  set: (view) => void router.replace({ query: { ...route.query, view } }),
})
/** What carries devices over is judged at once: the work may still run. */
const judging = computed(
  () => jobs.running.find(({ kind, params }) => kind === 'audit' && params['snapshotId'] === engagement.b?.id) ?? null,
)
const auditChoices = computed(() =>
  engagement.auditsOfB.map((audit) => ({
    value: audit.id,
    title: [
      audit.choices.map(({ benchmark }) => benchmark).join(', '),
      audit.scope?.title ?? 'all devices',
      audit.finishedAt ? absoluteTime(audit.finishedAt) : '',
    ]
      .filter(Boolean)
      .join(' · '),
  })),
)
const counts = computed(() => engagement.audit?.counts ?? null)

watch(
  () => engagement.audit?.id,
  async (id) => {
    grid.value = null
    if (id === undefined) return
    try {
      grid.value = await api.get<GridView>(`${engagement.base}/audits/${id}/grid`)
      problem.value = ''
    } catch (error) {
      problem.value = wordsOf(error)
    }
  },
  { immediate: true },
)

function listOf(outcome: string): void {
  void router.replace({ query: { ...route.query, view: 'list', outcome } })
}
usePageKeys([
  { key: 'g', does: 'Show the grid', run: () => (view.value = 'grid') },
  { key: 'v', does: 'Show the list', run: () => (view.value = 'list') },
  { key: 't', does: 'Show what has to be tidied', run: () => (view.value = 'tidying') },
])
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>Verdicts</h1>
        <p v-if="engagement.audit" class="quiet">
          <strong v-if="engagement.audit.scope">Limited to {{ engagement.audit.scope.title }}. </strong>
          {{ engagement.audit.choices.map((choice) => `${choice.benchmark}, ${choice.profile}`).join('; ') }} on “{{
            engagement.b?.title
          }}”
          <span v-if="engagement.audit.remembered > 0"
            >· {{ engagement.audit.remembered }} of
            {{ engagement.audit.remembered + engagement.audit.computed }} devices unchanged, their verdicts
            remembered</span
          >
        </p>
      </div>
      <v-select
        v-if="engagement.auditsOfB.length > 1"
        :model-value="engagement.audit?.id"
        :items="auditChoices"
        label="Audit"
        class="which"
        @update:model-value="engagement.chosenAudit = $event"
      />
      <v-btn v-if="engagement.b && engagement.may.run" @click="running = true">Run an audit</v-btn>
      <v-btn v-if="engagement.audit" to="reports">Make the report</v-btn>
    </div>
    <ProblemNote :text="problem" />
    <EmptyPage
      v-if="!engagement.b"
      title="Nothing to judge yet"
      text="Verdicts are made on a snapshot. Bring devices in first."
      ><v-btn variant="flat" to="snapshots">Bring devices in</v-btn></EmptyPage
    >
    <EmptyPage
      v-else-if="!engagement.audit && judging"
      title="Audit running"
      :text="`${judging.done} of ${judging.total} devices of “${engagement.b.title}” are judged.`"
    />
    <EmptyPage
      v-else-if="!engagement.audit"
      title="Not judged yet"
      :text="`No audit has been run on “${engagement.b.title}”.`"
      ><v-btn v-if="engagement.may.run" variant="flat" @click="running = true">Run an audit</v-btn></EmptyPage
    >
    <template v-else-if="counts">
      <div class="strip">
        <button
          v-for="outcome in OUTCOMES"
          :key="outcome"
          type="button"
          class="count"
          :aria-pressed="view === 'list' && route.query['outcome'] === outcome"
          :title="`List what is ${OUTCOME_TITLES[outcome]}`"
          @click="listOf(outcome)"
        >
          <b :data-count="outcome">{{ counts[outcome] }}</b> <VerdictMark :outcome="outcome" />
        </button>
        <button
          type="button"
          class="count"
          :aria-pressed="view === 'list' && route.query['outcome'] === 'waived'"
          title="List what is waived"
          @click="listOf('waived')"
        >
          <b data-count="waived">{{ grid?.cells.filter((cell) => cell.waived).length ?? 0 }}</b>{{ ' ' }}
          <VerdictMark outcome="waived" />
        </button>
        <span class="grow" />
        <v-btn-toggle v-model="view" mandatory density="compact" variant="outlined" color="primary" aria-label="View"
          ><v-btn value="grid" size="small">Grid</v-btn><v-btn value="list" size="small">List</v-btn
          ><v-btn value="tidying" size="small">Tidying</v-btn
          ><v-btn value="waivers" size="small">Waivers</v-btn></v-btn-toggle
        >
      </div>
      <VerdictGrid v-if="view === 'grid' && grid" :grid="grid" :audit-id="engagement.audit.id" />
      <VerdictList v-if="view === 'list'" :audit-id="engagement.audit.id" />
      <ExpectedList v-if="view === 'grid' || view === 'list'" />
      <TidyingView v-if="view === 'tidying' && grid" :grid="grid" :audit-id="engagement.audit.id" />
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
  padding: 3px 10px;
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
