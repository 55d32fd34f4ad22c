<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import { getOverview } from '@jurybox/api/overview'
import { type VerdictRow, listVerdicts } from '@jurybox/api/audits'
import { computed, watch } from 'vue'
import ScoreTrend from '../reports/ScoreTrend.vue'
import AgeText from '../shared/AgeText.vue'
import FirstSteps from './FirstSteps.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { OUTCOMES, OUTCOME_TITLES } from '../shared/outcomes.ts'
import { useQuery } from '../shared/query.ts'
import { grouped } from '../shared/numbers.ts'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import { firstOf } from '../shared/words.ts'

/** Where the engagement stands. Each number opens the table that it is counted in. */
const engagement = useEngagement()
const {
  data: view,
  problem,
  loading,
  reading,
  load,
  stop,
} = useQuery(getOverview, () => ({ query: { snapshot: engagement.b?.id } }))
watch(
  () => engagement.audit?.id,
  () => void load(),
)
const { data: top, problem: topProblem } = useQuery(listVerdicts, () =>
  view.value?.auditId ? { params: { audit: view.value.auditId }, query: { outcome: 'fail', limit: 7 } } : null,
)
const docket = computed(() => top.value?.verdicts ?? null)
const base = computed(() => `/e/${engagement.id}`)
const most = computed(() => Math.max(1, ...(view.value?.evidence ?? []).map(({ devices }) => devices)))
const shown = computed(() => OUTCOMES.filter((outcome) => (view.value?.counts?.[outcome] ?? 0) > 0))
const percent = (part: number, of: number): string => (of === 0 ? '0 %' : `${Math.floor((100 * part) / of)} %`)
const some = (names: readonly string[]): string => firstOf(names, 6)
const docketColumns: Column<VerdictRow>[] = [
  { key: 'severity', title: t('common.severity'), value: ({ severity }) => severity, width: '90px' },
  { key: 'finding', title: t('common.result'), value: ({ device, title }) => `${device}: ${title}` },
]
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>{{ $t('overview.overview') }}</h1>
        <p v-if="view" class="quiet">
          {{
            $t('overview.asOfCaptured', {
              title: engagement.view?.title,
              snapshot: view.snapshot.title,
              takenAt: absoluteTime(view.snapshot.takenAt),
            })
          }}
        </p>
      </div>
    </div>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <FirstSteps v-if="!loading && !view && !problem && !engagement.b" />
    <div v-else-if="view" class="layout">
      <div class="column">
        <ScoreTrend />
        <section class="panel block docket">
          <div class="head">
            <h2>{{ $t('overview.topFindings') }}</h2>
            <router-link v-if="view.auditId" :to="`${base}/verdicts?view=list&outcome=fail`">{{
              $t('overview.all', { counts: view.counts?.fail ?? 0 })
            }}</router-link>
          </div>
          <p v-if="!view.auditId" class="quiet">
            {{ $t('overview.thisSnapshotHasNotBeen') }}
            <router-link v-if="engagement.may.run" :to="`${base}/verdicts`">{{ $t('common.runAudit') }}</router-link>
          </p>
          <ProblemNote v-else-if="topProblem" :text="topProblem" />
          <p v-else-if="docket?.length === 0" class="quiet">{{ $t('overview.noFailures') }}</p>
          <DataTable
            v-else-if="docket"
            headless
            :label="$t('overview.topFindings')"
            :rows="docket"
            :columns="docketColumns"
          >
            <template #severity="{ row: one }"><SeverityNotches :severity="one.severity" /></template>
            <template #finding="{ row: one }">
              <router-link :to="`${base}/verdicts/${view.auditId}/${one.id}`"
                >{{ one.device }}: {{ one.title }}</router-link
              >
              <div class="quiet note">{{ one.note }}</div>
            </template>
          </DataTable>
        </section>
      </div>
      <div class="column">
        <section v-if="view.counts" class="panel block">
          <h2>{{ $t('common.verdicts') }}</h2>
          <ul class="counts">
            <li v-for="outcome in shown" :key="outcome">
              <router-link
                :to="`${base}/verdicts?view=list&outcome=${outcome}`"
                :aria-label="`${view.counts[outcome]} ${OUTCOME_TITLES[outcome]}`"
                ><b :data-overview="outcome">{{ view.counts[outcome] }}</b></router-link
              >{{ ' ' }}
              <VerdictMark :outcome="outcome" />
            </li>
          </ul>
          <dl>
            <dt>{{ $t('overview.devicesAudited') }}</dt>
            <dd>
              <router-link :to="`${base}/estate`"
                ><b data-overview="judged">{{ view.judged }}</b></router-link
              >
              {{ $t('overview.of') }} <b data-overview="devices">{{ view.devices }}</b>
            </dd>
            <dt>{{ $t('overview.parsedLines') }}</dt>
            <dd>
              {{ percent(view.lines - view.unread, view.lines) }},
              <router-link :to="`${base}/estate?estate.sort=-unread`"
                ><b data-overview="unread">{{ grouped(view.unread) }}</b> {{ $t('overview.unparsed') }}</router-link
              >
              {{ $t('overview.ofLines', { lines: grouped(view.lines) }) }}
            </dd>
          </dl>
        </section>
        <section class="panel block">
          <h2>{{ $t('overview.since', { before: view.before ? `“${view.before.title}”` : 'before' }) }}</h2>
          <p v-if="!view.changes" class="quiet">{{ $t('overview.thisIsTheFirstSnapshot') }}</p>
          <dl v-else>
            <template v-if="view.changes.verdicts">
              <dt>{{ $t('overview.newFindings') }}</dt>
              <dd>
                <router-link :to="`${base}/verdicts?view=list&since=new`"
                  ><b data-overview="new">{{ grouped(view.changes.verdicts.new) }}</b></router-link
                >
              </dd>
              <dt>{{ $t('overview.resolved') }}</dt>
              <dd>
                <router-link :to="`${base}/verdicts?view=list&since=resolved`"
                  ><b data-overview="resolved">{{ grouped(view.changes.verdicts.resolved) }}</b></router-link
                >
              </dd>
              <dd v-if="view.changes.verdicts.since.id !== view.before?.id" class="quiet whole">
                {{
                  $t('overview.findingsComparedWithTheAudit', {
                    since: view.changes.verdicts.since.title,
                    before: view.before?.title,
                  })
                }}
              </dd>
            </template>
            <dt>{{ $t('overview.changedConfigurations') }}</dt>
            <dd>
              <router-link :to="`${base}/estate/map?overlay=changes`"
                ><b data-overview="changed">{{ view.changes.changed.length }}</b>
                {{ $t('overview.devices') }}</router-link
              >{{ ' ' }}
              <span class="quiet">{{ some(view.changes.changed) }}</span>
            </dd>
            <dt>{{ $t('overview.newDevices') }}</dt>
            <dd>
              <b data-overview="appeared">{{ view.changes.appeared.length }}</b>{{ ' ' }}
              <span class="quiet">{{ some(view.changes.appeared) }}</span>
            </dd>
            <template v-if="view.changes.gone.length > 0"
              ><dt>{{ $t('overview.removedDevices') }}</dt>
              <dd>
                <b>{{ view.changes.gone.length }}</b> <span class="quiet">{{ some(view.changes.gone) }}</span>
              </dd></template
            >
          </dl>
        </section>
        <section class="panel block">
          <h2>{{ $t('overview.ageOfEvidence') }}</h2>
          <ul class="ages">
            <li v-for="age in view.evidence.filter(({ id, devices }) => id !== 'unknown' || devices > 0)" :key="age.id">
              <span>{{ age.title }}</span><span class="track" aria-hidden="true"
                ><i :style="{ width: `${(100 * age.devices) / most}%` }" /></span
              ><b :data-age="age.id">{{ age.devices }}</b>
            </li>
          </ul>
          <p v-if="view.down.length > 0" class="down">
            <b>{{ view.down.length }}</b> {{ $t('overview.notReachedInTheLast') }}
            <span :title="view.down.map(({ device, why }) => `${device}: ${why}`).join('\n')">{{
              some(view.down.map(({ device }) => device))
            }}</span>
          </p>
          <p class="quiet">
            {{ $t('common.captured') }} <AgeText :at="view.snapshot.takenAt" />{{
              $t('overview.eachRecordCountsWithIts')
            }}
          </p>
        </section>
      </div>
      <div class="column">
        <section class="panel block">
          <h2>{{ $t('overview.requirementCoverage') }}</h2>
          <ul class="ages">
            <li v-for="one in view.coverage" :key="one.id">
              <span
                >{{ one.title
                }}<span v-if="one.outside > 0" class="quiet apart">{{
                  $t('overview.outsideTheNetwork', { outside: one.outside })
                }}</span></span
              ><span class="track" aria-hidden="true"
                ><i :style="{ width: percent(one.decided, one.of).replace(' ', '') }" /></span
              ><b
                >{{ one.decided }}<span class="quiet">{{ ' ' }}{{ $t('overview.ofCount', { n: one.of }) }}</span></b
              >
            </li>
          </ul>
          <p class="quiet">
            {{ $t('overview.decidedByRulesOrBy') }}
            <router-link :to="`${base}/benchmarks`">{{ $t('common.benchmarks') }}</router-link>
          </p>
        </section>
        <section class="panel block">
          <div class="head">
            <h2>{{ $t('common.groups') }}</h2>
            <router-link :to="`${base}/estate/groups`">{{ $t('overview.allGroups') }}</router-link>
          </div>
          <p v-if="view.groups.length === 0" class="quiet">{{ $t('overview.noGroupsHereYetA') }}</p>
          <dl v-else>
            <template v-for="group in view.groups" :key="group.id"
              ><dt :title="group.text">{{ group.title }}</dt>
              <dd>
                <router-link :to="{ path: `${base}/estate`, query: { group: group.title } }"
                  ><b :data-group="group.title">{{ group.devices }}</b>
                  {{ $t('common.devicesOnly', group.devices) }}</router-link
                >
              </dd></template
            >
          </dl>
        </section>
      </div>
    </div>
  </div>
</template>

<style scoped>
.layout {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 4fr) minmax(0, 4fr);
  gap: 14px;
  align-items: start;
}
.column {
  display: grid;
  gap: 14px;
  grid-template-columns: minmax(0, 1fr);
}
.block {
  padding: 12px 16px;
  display: grid;
  gap: 6px;
  grid-template-columns: minmax(0, 1fr);
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 10px;
}
.docket .rows td {
  padding: 5px 6px;
}
.note {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 1;
  line-clamp: 1;
  overflow: hidden;
}
.counts {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin: 0;
  padding: 0;
}
.counts li {
  display: inline-flex;
  align-items: baseline;
  gap: 7px;
}
.counts b {
  font-size: 18px;
  font-weight: 600;
}
dl {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 4px 14px;
  margin: 0;
}
dt {
  color: rgb(var(--v-theme-quiet));
}
.whole {
  grid-column: 1 / -1;
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.ages {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 3px;
}
.ages li {
  display: grid;
  grid-template-columns: minmax(0, 9em) minmax(0, 1fr) auto;
  gap: 10px;
  align-items: center;
}
.apart {
  display: block;
  font-size: 12px;
  line-height: 1.2;
}
.track {
  height: 8px;
  border-bottom: var(--hair);
}
.track i {
  display: block;
  height: 8px;
  background: rgb(var(--v-theme-primary));
  opacity: 0.55;
}
.down {
  border-left: 3px solid rgb(var(--v-theme-fail));
  padding-left: 10px;
  overflow-wrap: anywhere;
}
@media (max-width: 1150px) {
  .layout {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  }
}
@media (max-width: 800px) {
  .layout {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
