<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import type { Outcome } from '@jurybox/api/outcomes'
import type { TrialView } from '@jurybox/api/rules'
import { computed, ref, watch } from 'vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { OUTCOMES, OUTCOME_TITLES } from '../shared/outcomes.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import { useRuleBench } from '../stores/rule-bench.ts'

/** What every device that is asked answers to the rule in hand, at B and beside it. */
const bench = useRuleBench()
const engagement = useEngagement()
const exhibit = useExhibit()
const SHOWN = 60
const all = ref(false)
const only = ref<Outcome | null>(null)
type Tried = TrialView['rules'][number]
const rule = computed<Tried | null>(() => bench.trial?.rules.find(({ id }) => id === bench.ruleId) ?? null)
const failing = computed(() => (bench.trial?.examples ?? []).filter((example) => example.wrong.length > 0))
const then = computed(() => new Map((rule.value?.beside ?? []).map((one) => [one.deviceId, one])))
const besideTitle = computed(() => engagement.snapshots.find(({ id }) => id === bench.besideId)?.title ?? '')
const differing = computed(
  () =>
    (rule.value?.devices ?? []).filter(
      ({ deviceId, outcome }) => then.value.has(deviceId) && then.value.get(deviceId)?.outcome !== outcome,
    ).length,
)
const countOf = (answers: readonly { outcome: Outcome }[], outcome: Outcome): number =>
  answers.filter((one) => one.outcome === outcome).length
const shown = computed(() =>
  OUTCOMES.filter(
    (outcome) => countOf(rule.value?.devices ?? [], outcome) + countOf(rule.value?.beside ?? [], outcome) > 0,
  ),
)
const devices = computed(() =>
  (rule.value?.devices ?? [])
    .filter(({ outcome }) => only.value === null || outcome === only.value)
    .toSorted((a, b) => OUTCOMES.indexOf(a.outcome) - OUTCOMES.indexOf(b.outcome)),
)
watch(
  () => bench.ruleId,
  () => (only.value = null),
)

interface Choice {
  readonly value: string
  readonly title: string
  readonly devices: readonly number[] | null
}
/** One device, those of a site, a role or a label, or all. */
const choices = computed<Choice[]>(() => {
  const groups = new Map<string, number[]>()
  for (const { id, facts } of bench.devices) {
    const said = [
      ['site', facts.site],
      ['role', facts.role],
      ...(facts.groups ?? []).map((name) => ['group', name]),
      ...Object.entries(facts.labels ?? {}),
    ].flatMap(([name, value]) => (value === undefined || value === '' ? [] : [`${String(name)}: ${String(value)}`]))
    for (const key of said) groups.set(key, [...(groups.get(key) ?? []), id])
  }
  return [
    { value: 'all', title: t('rules.allDevices', { devices: bench.devices.length }), devices: null },
    ...[...groups]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([key, ids]) => ({ value: key, title: `${key} (${ids.length})`, devices: ids })),
    ...bench.devices.map(({ id, name }) => ({ value: `device ${id}`, title: name, devices: [id] })),
  ]
})
const chosen = ref('all')
watch(chosen, (value) => (bench.asked = choices.value.find((choice) => choice.value === value)?.devices ?? null))
const besides = computed(() => [
  { value: 0, title: t('rules.nothing') },
  ...engagement.snapshots.filter(({ id }) => id !== engagement.b?.id).map(({ id, title }) => ({ value: id, title })),
])

const mending = ref<number | null>(null)
const remedy = computed(
  () => rule.value?.remedies.find(({ deviceId }) => deviceId === mending.value) ?? rule.value?.remedies[0] ?? null,
)
function showLine({ line }: Tried['devices'][number]): void {
  if (!line) return
  exhibit.open = true
  void exhibit.show(line.record, [{ from: line.from, to: line.from, absent: false }])
}
const columns = computed((): Column<Tried['devices'][number]>[] => [
  { key: 'now', title: t('rules.now'), value: ({ outcome }) => outcome },
  ...(rule.value && rule.value.beside.length > 0
    ? [
        {
          key: 'then',
          title: t('rules.then'),
          value: ({ deviceId }: Tried['devices'][number]) => then.value.get(deviceId)?.outcome ?? '',
        },
      ]
    : []),
  { key: 'device', title: t('common.device'), value: ({ device }) => device },
  { key: 'note', title: t('rules.branchNoteAndLine'), value: ({ note, branch }) => `${note} (${branch})` },
])
</script>

<template>
  <div class="answers">
    <div class="who">
      <v-autocomplete v-model="chosen" :items="choices" :label="$t('common.devices')" auto-select-first />
      <v-select
        :model-value="bench.besideId"
        :items="besides"
        :label="$t('rules.compareWith')"
        @update:model-value="bench.beside = $event"
      />
    </div>
    <div class="state" aria-live="polite">
      <template v-if="bench.busy"
        ><span class="quiet">{{ $t('rules.trying') }}</span>
        <v-btn size="small" variant="text" @click="bench.stop()">{{ $t('common.stop') }}</v-btn></template
      >
      <span v-else-if="bench.took !== null && !bench.wrong" class="quiet">{{
        $t('rules.devicesInS', { rule: rule?.devices.length ?? 0, took: (bench.took / 1000).toFixed(2) })
      }}</span>
    </div>
    <pre v-if="bench.wrong" class="panel wrong" role="alert">{{ bench.wrong }}</pre>
    <template v-if="bench.trial">
      <p :class="{ stale: bench.wrong !== '' }">
        <template v-if="failing.length === 0">{{
          $t('rules.examplesPass', { examples: bench.trial.examples.length })
        }}</template>
        <strong v-else>{{
          $t('rules.ofExamplesFail', { failing: failing.length, examples: bench.trial.examples.length })
        }}</strong>
      </p>
      <ul v-if="failing.length > 0" class="panel fails">
        <li v-for="example in failing" :key="`${example.rule} ${example.name}`">
          <strong>{{ example.rule }}, {{ example.name }}</strong
          >: {{ example.wrong.join('; ') }}
        </li>
      </ul>
    </template>
    <div v-if="rule" :class="{ stale: bench.wrong !== '' }">
      <table class="panel rows counts">
        <thead>
          <tr>
            <th scope="col">
              <span class="sr">{{ $t('rules.snapshot') }}</span>
            </th>
            <th v-for="outcome in shown" :key="outcome" scope="col"><VerdictMark :outcome="outcome" /></th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row">“{{ engagement.b?.title }}”</th>
            <td v-for="outcome in shown" :key="outcome">
              <button
                type="button"
                class="count"
                :aria-pressed="only === outcome"
                :aria-label="
                  $t('rules.showOnly', { count: countOf(rule.devices, outcome), outcome: OUTCOME_TITLES[outcome] })
                "
                @click="only = only === outcome ? null : outcome"
              >
                {{ countOf(rule.devices, outcome) }}
              </button>
            </td>
          </tr>
          <tr v-if="rule.beside.length > 0">
            <th scope="row" class="quiet">“{{ besideTitle }}”</th>
            <td v-for="outcome in shown" :key="outcome" class="quiet">{{ countOf(rule.beside, outcome) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="rule.beside.length > 0" class="quiet">
        {{
          differing === 0
            ? $t('rules.noOutcomeChanged')
            : $t('rules.otherwiseThanThen', {
                differing,
                differing2: differing === 1 ? $t('rules.outcomeChanged') : $t('rules.outcomesChanged'),
              })
        }}
      </p>
      <DataTable
        class="panel"
        name="trial"
        :label="$t('common.result')"
        :rows="all ? devices : devices.slice(0, SHOWN)"
        :columns="columns"
        :row-key="({ deviceId }) => deviceId"
      >
        <template #now="{ row: one }"><VerdictMark :outcome="one.outcome" :word="false" /></template>
        <template #then="{ row: one }">
          <VerdictMark
            v-if="then.get(one.deviceId)"
            :outcome="then.get(one.deviceId)?.outcome ?? ''"
            :word="false"
          /><span v-else class="quiet nowrap">{{ $t('rules.missing') }}</span>
        </template>
        <template #device="{ row: one }">
          <router-link :to="`estate/${one.deviceId}`">{{ one.device }}</router-link>
        </template>
        <template #note="{ row: one }">
          {{ one.note }}
          <div class="quiet">
            {{ one.branch
            }}<button v-if="one.line?.text" type="button" class="as-link at" @click="showLine(one)">
              {{ ' ' }}{{ $t('rules.lineAt', { from: one.line.from }) }} <code>{{ one.line.text }}</code>
            </button>
          </div>
        </template>
      </DataTable>
      <v-btn v-if="devices.length > SHOWN && !all" size="small" variant="text" @click="all = true">{{
        $t('rules.showAll', { devices: devices.length })
      }}</v-btn>
      <div v-if="remedy" class="panel remedy">
        <div class="head">
          <h3>{{ $t('rules.remediation') }}</h3>
          <v-select
            :model-value="remedy.deviceId"
            :items="rule.remedies.map(({ deviceId, device }) => ({ value: deviceId, title: device }))"
            :label="$t('rules.on')"
            @update:model-value="mending = $event"
          />
        </div>
        <pre v-if="remedy.remedy" class="mono">{{
          'words' in remedy.remedy ? remedy.remedy.words : remedy.remedy.commands.join('\n')
        }}</pre>
      </div>
    </div>
  </div>
</template>

<style scoped>
.answers {
  display: grid;
  gap: 8px;
}
.answers > div:last-child {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.answers > div:last-child > table {
  width: 100%;
}
.who {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.state {
  min-height: 28px;
  display: flex;
  align-items: center;
  gap: 8px;
}
.wrong {
  padding: 10px 14px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  border-left: 3px solid rgb(var(--v-theme-fail));
  margin: 0;
}
.fails {
  margin: 0;
  padding: 8px 12px 8px 28px;
}
.counts td,
.counts thead th {
  text-align: center;
}
.count {
  min-width: 30px;
  min-height: 24px;
  font-weight: 600;
  cursor: pointer;
  border-radius: 3px;
  text-decoration: underline;
}
.count[aria-pressed='true'] {
  background: rgb(var(--v-theme-brass-fill));
}
.at {
  margin-left: 10px;
}
.remedy {
  padding: 8px 14px;
  width: 100%;
}
.remedy .head {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 14px;
  align-items: center;
}
.remedy pre {
  margin: 6px 0 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.nowrap {
  white-space: nowrap;
}
.stale {
  opacity: 0.6;
}
</style>
