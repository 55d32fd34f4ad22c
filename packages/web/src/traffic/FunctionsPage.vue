<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import { type FunctionView, listFunctions } from '@jurybox/api/traffic'
import { computed, ref } from 'vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import KindChoice from './KindChoice.vue'
import LineLinks from './LineLinks.vue'
import TraceRows from './TraceRows.vue'
import TrafficHead from './TrafficHead.vue'
import { useEngagement } from '../stores/engagement.ts'
import { useQuery } from '../shared/query.ts'
import { packetWords } from './packet-words.ts'

/** Whether what a device needs others for gets through: link by link, the first that is broken told with its line. */
type Standing = FunctionView['outcome']
const engagement = useEngagement()
const {
  data: functions,
  problem,
  reading,
  stop,
} = useQuery(listFunctions, () => (engagement.b ? { query: { snapshot: engagement.b.id } } : null))
const [kind, standing] = [ref(''), ref('')]
const TITLES = {
  time: t('common.time'),
  logging: t('traffic.syslog'),
  logins: t('traffic.logins'),
  traps: t('traffic.snmpTraps'),
  names: t('traffic.dns'),
} as const
const STANDINGS: readonly Standing[] = ['fail', 'unknown', 'pass']
const WORDS = { pass: t('traffic.pass'), fail: t('traffic.fail'), unknown: t('traffic.unknown') } as const
const kinds = computed(() => [...new Set((functions.value ?? []).map((one) => one.kind))])
const count = (wanted: Standing): number =>
  (functions.value ?? []).filter((one) => one.outcome === wanted && (kind.value === '' || one.kind === kind.value))
    .length
const shown = computed(() =>
  (functions.value ?? [])
    .filter(
      (one) =>
        (kind.value === '' || one.kind === kind.value) && (standing.value === '' || one.outcome === standing.value),
    )
    .sort((a, b) => STANDINGS.indexOf(a.outcome) - STANDINGS.indexOf(b.outcome)),
)
const chainWords = ({ outcome, links }: FunctionView): string =>
  `${WORDS[outcome]}: ${links.map(({ link, standing: stands }) => `${link} ${stands}`).join(', ')}`
const why = (one: FunctionView) =>
  one.links.find((link) => link.standing === 'fail') ?? one.links.find((link) => link.standing === 'unknown')
const columns: Column<FunctionView['links'][number]>[] = [
  { key: 'step', title: t('traffic.step'), value: ({ link }) => link },
  { key: 'state', title: t('traffic.state'), value: ({ standing }) => standing },
  { key: 'result', title: t('common.result'), value: ({ words }) => words },
  { key: 'lines', title: t('common.lines'), value: () => '', acts: true },
]
</script>

<template>
  <div class="page">
    <TrafficHead :note="$t('traffic.endToEndChecksOf')" />
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <template v-if="functions">
      <KindChoice
        v-model="standing"
        :label="$t('traffic.state')"
        all="all"
        :kinds="STANDINGS.map((one) => ({ id: one, title: WORDS[one], count: count(one) }))"
      />
      <KindChoice
        v-model="kind"
        :label="$t('traffic.function')"
        :all="$t('traffic.allFunctions')"
        :kinds="kinds.map((one) => ({ id: one, title: TITLES[one] }))"
      />
      <section v-if="shown.length > 0" class="panel">
        <details v-for="one in shown" :key="`${one.device} ${one.kind} ${one.server}`" class="function">
          <summary>
            <span class="what"
              ><b>{{ one.device }}</b> {{ TITLES[one.kind] }} <span class="quiet">{{ one.server }}</span></span
            >
            <ol class="chain" :aria-label="chainWords(one)">
              <li v-for="(link, i) in one.links" :key="i" :class="link.standing" :title="`${link.link}: ${link.words}`">
                {{ link.link }}
              </li>
            </ol>
            <span v-if="why(one)" class="why">{{ why(one)?.words }}</span>
          </summary>
          <DataTable :label="$t('traffic.step')" :rows="one.links" :columns="columns">
            <template #state="{ row: link }"
              ><span class="mark" :class="link.standing">{{ link.standing }}</span></template
            >
            <template #result="{ row: link }">
              {{ link.words
              }}<template v-if="link.trace"
                ><br /><code>{{ packetWords(link.trace.packet) }}</code
                >{{ ' ' }}
                <span class="quiet">{{
                  $t('traffic.atPort', { at: link.trace.at, port: link.trace.port })
                }}</span></template
              >
            </template>
            <template #lines="{ row: link }"><LineLinks :exhibits="link.exhibits" /></template>
          </DataTable>
          <template v-for="(link, i) in one.links" :key="`t${i}`"
            ><details v-if="link.trace" class="trace">
              <summary>{{ $t('traffic.hopByHop', { link: link.link }) }}</summary>
              <TraceRows :trace="link.trace.trace" /></details
          ></template>
        </details>
      </section>
      <p v-else class="quiet">
        {{ functions.length === 0 ? $t('traffic.noDeviceOfThisSnapshot') : $t('traffic.noneWithThisOutcome') }}
      </p>
    </template>
  </div>
</template>

<style scoped>
.function + .function {
  border-top: var(--hair);
}
.function > summary {
  display: grid;
  grid-template-columns: minmax(200px, 1fr) max-content;
  gap: 3px 14px;
  align-items: center;
  padding: 7px 14px;
  cursor: pointer;
  min-height: 34px;
  list-style: none;
}
.function > summary:hover {
  background: rgb(var(--v-theme-background));
}
.function[open] > summary {
  border-bottom: var(--hair);
}
.what {
  overflow-wrap: anywhere;
}
.chain {
  display: flex;
  flex-wrap: wrap;
  list-style: none;
  padding: 0;
  margin: 0;
}
.chain li {
  position: relative;
  padding: 1px 7px;
  font-size: 12px;
  border: 1px solid currentColor;
  white-space: nowrap;
  margin-right: 11px;
  border-radius: 2px;
}
.chain li:not(:last-child)::after {
  content: '';
  position: absolute;
  left: 100%;
  top: 50%;
  width: 11px;
  border-top: 2px solid rgb(var(--v-theme-quiet));
}
.chain .fail:not(:last-child)::after {
  border-top-style: dotted;
}
.chain .fail {
  border-width: 2px;
  font-weight: 600;
  text-decoration: line-through;
}
.chain .unknown {
  border-style: dashed;
}
.pass {
  color: rgb(var(--v-theme-pass));
}
.fail {
  color: rgb(var(--v-theme-fail));
}
.unknown {
  color: rgb(var(--v-theme-unknown));
}
.why {
  grid-column: 1 / -1;
  overflow-wrap: anywhere;
}
.words {
  overflow-wrap: anywhere;
}
.trace {
  padding: 0 14px 8px;
}
.trace summary {
  cursor: pointer;
  min-height: 24px;
}
code {
  font-family: var(--mono);
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
td {
  vertical-align: top;
}
@media (max-width: 700px) {
  .function > summary {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
