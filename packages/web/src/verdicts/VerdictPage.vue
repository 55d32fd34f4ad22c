<script setup lang="ts">
import { t } from '../messages/index.ts'
import { type VerdictView, getGrid, getVerdict } from '@jurybox/api/audits'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { usePageKeys } from '../shared/keys.ts'
import { isFinding } from '../shared/outcomes.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import FindingForm from './FindingForm.vue'
import WaiveDialog from './WaiveDialog.vue'
import { dayOf } from '../shared/time.ts'
import { lineWords } from '../shared/words.ts'

/** One verdict opened: statement, branch, lines, what is missing and extra, remedy, references. */
const route = useRoute()
const router = useRouter()
const engagement = useEngagement()
const exhibit = useExhibit()
/** The numbers in the address; null while another page is on its way. */
const asked = computed(() => {
  const { audit, verdict: id } = route.params
  return audit === undefined || id === undefined ? null : { audit: Number(audit), verdict: Number(id) }
})
const { data: view, problem: unread, load } = useQuery(getVerdict, () => asked.value && { params: asked.value })
const { data: grid, problem: ungridded } = useQuery(
  getGrid,
  () => asked.value && { params: { audit: asked.value.audit } },
)
const problem = computed(() => unread.value || ungridded.value)
/** Verdicts to go through one after the other: those that object and that nobody has waived, device by device. */
const order = computed(() =>
  (grid.value?.cells ?? []).filter((cell) => isFinding(cell.outcome) && !cell.waived).map((cell) => cell.id),
)
const copied = ref('')
const verdict = computed(() => view.value?.verdict)
const remedy = computed(() => verdict.value?.remedy ?? null)
const base = computed(() => `/e/${engagement.id}`)

const waiving = ref(false)
watch(view, (now) => {
  const first = now?.verdict.exhibits[0]
  if (first) void showRecord(first.record)
})
const position = computed(() => order.value.indexOf(view.value?.id ?? -1))
function step(by: number): void {
  const count = order.value.length
  if (count === 0) return
  const next = order.value[position.value < 0 ? 0 : (position.value + by + count) % count]
  if (next !== undefined) void router.push(`${base.value}/verdicts/${String(route.params['audit'])}/${next}`)
}

async function showRecord(record: string, at = 0): Promise<void> {
  const own = verdict.value?.exhibits.filter((one) => one.record === record) ?? []
  await exhibit.show(
    Number(record),
    own.map(({ from, to, absent }) => ({ from, to, absent: absent === true })),
  )
  exhibit.at = Math.max(0, Math.min(at, own.length - 1))
}
function showExhibit(index: number): void {
  const chosen = verdict.value?.exhibits[index]
  if (!chosen) return
  if (!exhibit.open) exhibit.toggle()
  const within = verdict.value?.exhibits.filter((one) => one.record === chosen.record).indexOf(chosen) ?? 0
  void showRecord(chosen.record, within)
}
const where = (one: { device?: string; from: number; to: number; absent?: true }): string =>
  (one.device === undefined ? '' : `${one.device}, `) +
  (one.absent ? `${t('verdicts.searched')} ` : '') +
  lineWords(one.from, one.to)
async function copy(lines: readonly string[]): Promise<void> {
  try {
    await navigator.clipboard.writeText(lines.join('\n'))
    copied.value = t('verdicts.copied')
  } catch {
    copied.value = t('verdicts.theBrowserDidNotAllow')
  }
  setTimeout(() => (copied.value = ''), 2500)
}
usePageKeys([
  { key: 'n', does: t('verdicts.nextFinding'), run: () => step(1) },
  { key: 'p', does: t('verdicts.previousFinding'), run: () => step(-1) },
])

const subjectColumns: Column<VerdictView['verdict']['subjects'][number]>[] = [
  { key: 'outcome', title: t('common.outcome'), value: ({ outcome }) => outcome, width: '130px' },
  { key: 'note', title: t('common.reason'), value: ({ note }) => note },
]
const referenceColumns: Column<VerdictView['references'][number]>[] = [
  { key: 'framework', title: t('verdicts.framework'), value: ({ framework }) => framework },
  { key: 'number', title: t('verdicts.number'), value: ({ number }) => number },
  { key: 'title', title: t('common.title'), value: ({ title }) => title },
]
</script>

<template>
  <div class="page">
    <EmptyPage v-if="problem && !view" whole :title="$t('verdicts.cannotBeShown')" :text="problem">
      <v-btn variant="flat" :to="`/e/${engagement.id}/verdicts`">{{ $t('verdicts.goToVerdicts') }}</v-btn>
    </EmptyPage>
    <ProblemNote v-else :text="problem" />
    <template v-if="view && verdict">
      <div class="trail">
        <p class="quiet">
          <router-link :to="`${base}/verdicts`">{{ $t('common.verdicts') }}</router-link> ▸
          <router-link :to="`${base}/estate/${view.deviceId}`">{{ verdict.device }}</router-link>
        </p>
        <span v-if="order.length > 0" class="steps">
          <span class="quiet">{{
            position >= 0
              ? $t('verdicts.ofOpenFindings', { position: position + 1, order: order.length })
              : $t('verdicts.openFindings', { order: order.length })
          }}</span>
          <v-btn size="small" :title="$t('verdicts.previousP')" @click="step(-1)">{{
            $t('verdicts.previous')
          }}</v-btn><v-btn size="small" :title="$t('verdicts.nextN')" @click="step(1)">{{ $t('verdicts.next') }}</v-btn>
        </span>
      </div>
      <h1>{{ view.rule?.title ?? verdict.rule }}</h1>
      <p class="line">
        <VerdictMark :outcome="verdict.outcome" :waived="verdict.waived !== undefined" :size="14" /><SeverityNotches
          :severity="verdict.severity"
        /><span class="quiet"
          ><code>{{ verdict.rule }}</code> · {{ view.rule?.topic }} · {{ view.rule?.profile }}</span
        >
      </p>
      <p class="note panel">{{ verdict.note }}</p>

      <section v-if="verdict.waived" class="panel borne">
        <div v-for="(waiver, i) in verdict.waived" :key="i">
          <strong>{{ $t('verdicts.waivedUntil', { expires: dayOf(waiver.expires) }) }}</strong><template
            v-if="waiver.subject"
            >{{ ' ' }}{{ $t('verdicts.for', { subject: waiver.subject }) }}</template
          >: {{ waiver.reason }}
          <span class="quiet">{{ $t('verdicts.riskOwner', { owner: waiver.owner }) }}</span>
        </div>
        <router-link :to="`${base}/verdicts?view=waivers`">{{ $t('verdicts.allWaivers') }}</router-link>
      </section>
      <WaiveDialog v-if="waiving" v-model="waiving" :verdict="verdict" :audit-id="view.auditId" @waived="load" />

      <section>
        <h2>{{ $t('common.evidence') }}</h2>
        <ul class="exhibits">
          <li v-for="(one, i) in verdict.exhibits.slice(0, 20)" :key="i">
            <button type="button" class="exhibit" :class="{ absent: one.absent }" @click="showExhibit(i)">
              <span class="quiet">{{ where(one) }}</span>{{ ' '
              }}<code v-if="one.text">{{ one.text.split('\n').slice(0, 3).join('\n') }}</code
              ><span v-else class="quiet">{{ $t('verdicts.wholeRecordSearchedNotFound') }}</span>
            </button>
          </li>
        </ul>
        <p v-if="verdict.exhibits.length > 20" class="quiet">
          {{ $t('verdicts.andMoreInThePanel', { exhibits: verdict.exhibits.length - 20 }) }}
        </p>
      </section>

      <section v-if="verdict.missing.length > 0 || verdict.extra.length > 0" class="two">
        <div v-if="verdict.missing.length > 0">
          <h2>{{ $t('verdicts.missing') }}</h2>
          <pre class="panel mono">{{ verdict.missing.join('\n') }}</pre>
        </div>
        <div v-if="verdict.extra.length > 0">
          <h2>{{ $t('verdicts.extra') }}</h2>
          <pre class="panel mono">{{ verdict.extra.join('\n') }}</pre>
        </div>
      </section>

      <section v-if="verdict.subjects.length > 1">
        <h2>{{ $t('verdicts.subjects') }}</h2>
        <DataTable
          headless
          class="panel"
          name="subjects"
          :label="$t('verdicts.subjects')"
          :rows="verdict.subjects"
          :columns="subjectColumns"
          :row-key="({ name }) => name"
        >
          <template #outcome="{ row: subject }"><VerdictMark :outcome="subject.outcome" /></template>
        </DataTable>
      </section>

      <section v-if="remedy">
        <h2>{{ $t('verdicts.remediation') }}</h2>
        <p v-if="'words' in remedy" class="panel words">{{ remedy.words }}</p>
        <template v-else>
          <div v-if="remedy.risk !== 'none' || remedy.check.length > 0" class="risk panel">
            <strong>{{
              remedy.risk === 'session'
                ? $t('verdicts.mayCutOffTheSession')
                : remedy.risk === 'traffic'
                  ? $t('verdicts.mayInterruptTraffic')
                  : ''
            }}</strong>
            <template v-if="remedy.check.length > 0"
              >{{ ' ' }}{{ $t('verdicts.firstCheck') }}
              <ul>
                <li v-for="line in remedy.check" :key="line">{{ line }}</li>
              </ul></template
            >
          </div>
          <div class="two">
            <div>
              <div class="sub">
                <h3>{{ $t('verdicts.commands') }}</h3>
                <v-btn size="x-small" variant="text" @click="copy(remedy.commands)">{{ $t('verdicts.copy') }}</v-btn>
              </div>
              <pre class="panel mono" data-remedy>{{ remedy.commands.join('\n') }}</pre>
            </div>
            <div>
              <div class="sub">
                <h3>{{ $t('verdicts.rollback') }}</h3>
                <v-btn size="x-small" variant="text" @click="copy(remedy.rollback)">{{ $t('verdicts.copy') }}</v-btn>
              </div>
              <pre class="panel mono">{{ remedy.rollback.join('\n') }}</pre>
              <p v-if="remedy.unrestored" class="quiet">
                {{ $t('verdicts.notRestoredByTheRollback', { unrestored: remedy.unrestored }) }}
              </p>
            </div>
          </div>
          <p
            v-if="remedy.commands.concat(remedy.rollback).some((line) => /<\S+ [0-9a-f]{8}>/.test(line))"
            class="quiet"
          >
            {{ $t('verdicts.fillInTheValuesIn') }}
          </p>
          <p class="quiet" role="status">{{ copied }}</p>
        </template>
      </section>

      <section v-if="isFinding(verdict.outcome)">
        <h2>{{ $t('verdicts.followUp') }}</h2>
        <FindingForm
          v-if="engagement.may.remediate"
          :key="view.id"
          class="panel follow"
          :audit-id="view.auditId"
          :verdicts="[view.id]"
          :finding="view.finding"
          @saved="load"
          ><v-btn v-if="engagement.may.waive && !verdict.waived" size="small" @click="waiving = true">{{
            $t('verdicts.waive')
          }}</v-btn></FindingForm
        >
        <p v-else-if="view.finding.owner || view.finding.due || view.finding.comment" class="panel follow">
          {{
            $t('verdicts.ownerDue', {
              owner: view.finding.owner?.name ?? $t('verdicts.nobody'),
              due: view.finding.due ?? $t('common.none'),
            })
          }}
          {{ view.finding.comment }}
        </p>
        <p v-else class="quiet">{{ $t('verdicts.nobodyYet') }}</p>
        <p v-if="view.finding.overdue" class="overdue">{{ $t('verdicts.isOverdue', { due: view.finding.due }) }}</p>
      </section>

      <section>
        <h2>{{ $t('verdicts.decision') }}</h2>
        <p>{{ view.rule?.statement }}</p>
        <p class="branches">
          <span
            v-for="branch in view.rule?.branches"
            :key="branch.id"
            class="branch"
            :class="{ took: branch.id === verdict.branch }"
            ><code>{{ branch.id }}</code> <VerdictMark :outcome="branch.outcome" :size="10" /><span
              v-if="branch.id === verdict.branch"
              class="sr"
              >{{ ' ' }}{{ $t('verdicts.thisBranch') }}</span
            ></span
          >
        </p>
        <p v-if="view.values.length > 0" class="quiet">
          {{ $t('verdicts.values') }}
          <span v-for="(value, i) in view.values" :key="value.name"
            >{{ i > 0 ? '; ' : '' }}<code>{{ value.name }}</code> = {{ value.value }} ({{
              value.from === 'engagement'
                ? $t('verdicts.setForThisEngagement')
                : value.from === 'default'
                  ? 'default'
                  : $t('verdicts.forSubject', { from: value.from })
            }})</span
          >
        </p>
      </section>

      <section>
        <h2>{{ $t('common.requirements') }}</h2>
        <DataTable
          headless
          class="panel"
          name="requirements"
          :label="$t('common.requirements')"
          :rows="view.references"
          :columns="referenceColumns"
          :row-key="({ reference }) => reference"
        >
          <template #number="{ row: reference }">
            <router-link :to="`${base}/verdicts?view=list&requirement=${encodeURIComponent(reference.reference)}`">{{
              reference.number
            }}</router-link>
          </template>
        </DataTable>
      </section>
    </template>
  </div>
</template>

<style scoped>
section {
  margin-top: 16px;
}
section > h2 {
  margin-bottom: 6px;
}
.follow {
  padding: 12px 14px;
}
.overdue {
  color: rgb(var(--v-theme-fail));
  font-weight: 600;
}
.trail,
.steps {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  flex-wrap: wrap;
}
.line {
  display: flex;
  gap: 18px;
  align-items: center;
  margin: 8px 0 10px;
  flex-wrap: wrap;
}
.note {
  padding: 10px 14px;
  font-size: 15px;
  border-left: 3px solid rgb(var(--v-theme-on-surface));
}
.exhibits {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 4px;
}
.exhibit {
  display: flex;
  gap: 12px;
  width: 100%;
  text-align: left;
  font: inherit;
  color: inherit;
  padding: 3px 10px;
  background: rgb(var(--v-theme-brass-fill));
  border-left: 4px solid rgb(var(--v-theme-brass));
  cursor: pointer;
  min-height: 26px;
  align-items: baseline;
}
.exhibit .quiet {
  white-space: nowrap;
  font-size: 12.5px;
  color: rgb(var(--v-theme-on-surface));
}
.exhibit code {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.absent {
  background: transparent;
  border-left-style: dotted;
}
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 12px;
}
.sub {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
pre {
  margin: 4px 0 0;
  padding: 8px 12px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.risk,
.words {
  padding: 8px 14px;
  margin-bottom: 8px;
  white-space: pre-line;
}
.risk {
  border-left: 3px solid rgb(var(--v-theme-fail));
}
.borne {
  padding: 8px 14px;
  margin-top: 8px;
  border-left: 3px dashed rgb(var(--v-theme-waived));
}
.risk ul {
  margin: 2px 0 0;
  padding-left: 18px;
  white-space: normal;
}
.branches {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 6px 0;
}
.branch {
  display: inline-flex;
  gap: 8px;
  align-items: center;
  padding: 2px 8px;
  border: var(--hair);
  border-radius: 3px;
  font-size: 12.5px;
}
.took {
  border-color: rgb(var(--v-theme-primary));
  box-shadow: inset 0 -2px rgb(var(--v-theme-primary));
}
</style>
