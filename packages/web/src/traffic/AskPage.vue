<script setup lang="ts">
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { type ReachView, listPlaces, askReach, askSurvey, askTrace } from '@jurybox/api/traffic'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import ClassList from './ClassList.vue'
import FateMark from './FateMark.vue'
import PathMap from './PathMap.vue'
import SurveyTable from './SurveyTable.vue'
import TraceRows from './TraceRows.vue'
import TrafficHead from './TrafficHead.vue'
import { FATES, countWords, packetWords, traceQuery } from './packet-words.ts'

/**
 * Asking freely: what becomes of every packet between two places, or of one packet. What is asked stands in the
 * address.
 */
const engagement = useEngagement()
const route = useRoute()
const without = (query: Record<string, string>): Record<string, string> =>
  Object.fromEntries(Object.entries(query).filter(([, value]) => value !== ''))
const router = useRouter()
const every = reactive({ from: '', to: '', only: '' })
const one = reactive({ at: '', src: '', dst: '', proto: 'tcp', sport: '', dport: '' })
const asked = (name: string): string => (typeof route.query[name] === 'string' ? route.query[name] : '')

/* What is asked, and only that */
const packets = computed(() => ({ from: asked('from'), to: asked('to'), only: asked('only') }))
const packet = computed(() => ({
  at: asked('at'),
  src: asked('src'),
  dst: asked('dst'),
  proto: asked('proto') || 'tcp',
  sport: asked('sport'),
  dport: asked('dport'),
}))
watch(
  [packets, packet],
  () => {
    Object.assign(every, packets.value)
    Object.assign(one, packet.value)
  },
  { immediate: true },
)
const question = computed(() => {
  const { from, to } = packets.value
  if (engagement.b === null) return null
  if (from && to) return 'reach'
  if (from || to) return 'survey'
  const { at, src, dst } = packet.value
  return at && src && dst ? 'trace' : null
})
const about = computed(() => ({ snapshot: engagement.b?.id ?? 0 }))
const known = useQuery(listPlaces, () => (engagement.b ? { query: about.value } : null))
const reached = useQuery(
  askReach,
  () => (question.value === 'reach' ? { query: { ...about.value, ...packets.value } } : null),
  { afresh: true },
)
const surveyed = useQuery(
  askSurvey,
  () => (question.value === 'survey' ? { query: { ...about.value, ...without(packets.value) } } : null),
  { afresh: true },
)
const traced = useQuery(
  askTrace,
  () => (question.value === 'trace' ? { query: { ...about.value, ...packet.value } } : null),
  { afresh: true },
)
const [places, reach, survey, trace] = [known.data, reached.data, surveyed.data, traced.data]
const asking = [known, reached, surveyed, traced]
const problem = computed(() => asking.map((one) => one.problem.value).find(Boolean) ?? '')
const reading = computed(() => asking.map((one) => one.reading.value).find(Boolean) ?? null)
const stop = (): void => asking.forEach((one) => one.stop())
const kept = computed(() => (typeof route.query['b'] === 'string' ? { b: route.query['b'] } : {}))
/** Which of the two questions is open. */
const side = ref<'every' | 'one'>(asked('at') ? 'one' : 'every')
watch(
  () => route.query,
  () => (side.value = asked('at') ? 'one' : asked('from') || asked('to') ? 'every' : side.value),
)
const askEvery = (): void => void router.push({ query: { ...kept.value, ...without(every) } })
const askOne = (): void => void router.push({ query: { ...kept.value, ...without(one) } })
const parts = computed(() =>
  [...(reach.value?.parts ?? [])].sort(
    (a, b) => FATES.indexOf(a.fate) - FATES.indexOf(b.fate) || a.device.localeCompare(b.device),
  ),
)
const example = (part: ReachView['parts'][number]) =>
  part.example ? { query: { ...kept.value, ...traceQuery(startOf(part.example.source), part.example) } } : null
/** A packet begins where it was asked about, where that is a point; else at the device that tells its fate. */
function startOf(source: string): string {
  return places.value?.points.includes(every.from)
    ? every.from
    : (places.value?.points.find((point) =>
        point.startsWith(`${parts.value.find(({ example: packet }) => packet?.source === source)?.device ?? ''}:`),
      ) ?? every.from)
}
/** What is so now, as what must be so: where packets come to several ends, whoever saves it decides. */
const asExpectation = computed(() => {
  const fates = new Set(parts.value.map(({ fate }) => fate))
  const arrives = fates.has('arrives') || fates.has('leaves')
  return {
    path: `/e/${engagement.id}/traffic`,
    query: { ...kept.value, add: '1', ...without(every), must: arrives ? 'arrive' : 'not-arrive' },
  }
})
const computedTables = computed(() => places.value?.tables.filter(({ from }) => from === 'computed') ?? [])
const columns: Column<(typeof parts.value)[number]>[] = [
  { key: 'fate', title: t('traffic.fate'), value: ({ fate }) => fate },
  {
    key: 'place',
    title: t('traffic.placeAndReason'),
    value: ({ device, port, reason }) => [device, port, reason.words].filter(Boolean).join(' '),
  },
  { key: 'packets', title: t('traffic.packets'), value: ({ classes }) => classes.join('; ') },
  { key: 'example', title: t('traffic.example'), value: ({ example: packet }) => (packet ? packetWords(packet) : '') },
]
</script>

<template>
  <div class="page">
    <TrafficHead :note="$t('traffic.fateOfAllPacketsBetween')" />
    <datalist id="places"><option v-for="place in places?.places ?? []" :key="place" :value="place" /></datalist>
    <datalist id="points"><option v-for="point in places?.points ?? []" :key="point" :value="point" /></datalist>
    <div class="panel block">
      <v-btn-toggle
        v-model="side"
        mandatory
        density="compact"
        variant="outlined"
        color="primary"
        :aria-label="$t('traffic.question')"
        ><v-btn value="every" size="small">{{ $t('traffic.allPackets') }}</v-btn
        ><v-btn value="one" size="small">{{ $t('traffic.onePacket') }}</v-btn></v-btn-toggle
      >
      <form v-if="side === 'every'" class="fields" :aria-label="$t('traffic.allPackets')" @submit.prevent="askEvery">
        <label
          >{{ $t('common.from')
          }}<input v-model="every.from" list="places" :required="!every.to" aria-describedby="alone" spellcheck="false"
        /></label>
        <label
          >{{ $t('traffic.to')
          }}<input v-model="every.to" list="places" :required="!every.from" aria-describedby="alone" spellcheck="false"
        /></label>
        <label class="grow"
          ><span
            >{{ $t('traffic.only') }} <span class="quiet">{{ $t('traffic.pcapFilterSyntax') }}</span></span
          ><input v-model="every.only" class="mono" placeholder="tcp dst port 443" spellcheck="false"
        /></label>
        <v-btn type="submit" variant="flat">{{ $t('traffic.ask') }}</v-btn>
        <p id="alone" class="quiet">{{ $t('traffic.onlyFromWhatItReaches') }}</p>
      </form>
      <form v-else class="fields" :aria-label="$t('traffic.onePacket')" @submit.prevent="askOne">
        <label class="grow"
          ><span
            >{{ $t('traffic.at') }} <span class="quiet">{{ $t('traffic.deviceOrDeviceInterface') }}</span></span
          ><input v-model="one.at" list="points" required spellcheck="false"
        /></label>
        <label>{{ $t('traffic.source') }}<input v-model="one.src" class="mono" required spellcheck="false" /></label>
        <label
          >{{ $t('traffic.destination') }}<input v-model="one.dst" class="mono" required spellcheck="false"
        /></label>
        <label class="short"
          >{{ $t('traffic.protocol') }}<input v-model="one.proto" class="mono" required spellcheck="false"
        /></label>
        <label class="short"
          >{{ $t('traffic.port') }}<input v-model="one.dport" class="mono" inputmode="numeric" spellcheck="false"
        /></label>
        <v-btn type="submit" variant="flat">{{ $t('traffic.trace') }}</v-btn>
      </form>
    </div>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop()" />
    <PathMap v-if="reach && reach.picture.ends.length > 0" :picture="reach.picture" />
    <SurveyTable v-if="survey" :survey="survey" :from="every.from" :to="every.to" :only="every.only" />
    <p v-if="reach && engagement.may.writeRules">
      <v-btn size="small" :to="asExpectation">{{ $t('traffic.saveAsExpectation') }}</v-btn>
    </p>
    <section v-if="reach" class="panel" :aria-label="$t('traffic.fates')">
      <DataTable name="fates" :label="$t('traffic.fates')" :rows="parts" :columns="columns">
        <template #fate="{ row: part }"><FateMark :fate="part.fate" /></template>
        <template #place="{ row: part }">
          <b>{{ part.device }}</b> {{ part.port }}<br /><span class="quiet">{{ part.reason.words }}</span>
        </template>
        <template #packets="{ row: part }">
          <ClassList :classes="part.classes" :whole="part.whole" /><span class="quiet">{{
            $t('traffic.headers', { count: countWords(part.count) })
          }}</span>
        </template>
        <template #example="{ row: part }">
          <router-link v-if="part.example && example(part)" :to="example(part) ?? {}">{{
            packetWords(part.example)
          }}</router-link>
        </template>
      </DataTable>
      <p v-if="parts.length === 0" class="none quiet">
        {{ $t('traffic.noPacketsMatchNothingStarts') }}
      </p>
    </section>
    <section v-if="trace" class="panel block whole" :aria-label="$t('traffic.trace')">
      <PathMap v-if="trace.picture" :picture="trace.picture" /><TraceRows :trace="trace" />
    </section>
    <details v-if="computedTables.length > 0" class="quiet tables">
      <summary>
        {{
          $t('traffic.ofRoutingTablesWereNot', { computedTables: computedTables.length, places: places?.tables.length })
        }}
      </summary>
      <ul>
        <li v-for="table in computedTables" :key="`${table.device} ${table.table} ${table.family}`">
          {{ table.device }} {{ table.table }} {{ table.family
          }}<template v-if="table.missing">: {{ table.missing }}</template>
        </li>
      </ul>
    </details>
  </div>
</template>

<style scoped>
.block {
  padding: 10px 16px 12px;
  margin-bottom: 14px;
  display: grid;
  gap: 8px;
  align-content: start;
  justify-items: start;
}
.fields {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  width: 100%;
  align-items: end;
}
.fields label {
  flex: 1 1 130px;
}
.fields .grow {
  flex: 2 1 190px;
}
.fields .short {
  flex: 0 1 80px;
}
.fields p {
  flex-basis: 100%;
  font-size: 13px;
}
label {
  display: grid;
  gap: 2px;
  font-size: 13px;
}
input {
  font: inherit;
  min-height: 30px;
  padding: 3px 8px;
  color: inherit;
  background: rgb(var(--v-theme-surface));
  border: 1px solid rgb(var(--v-theme-quiet));
  border-radius: 3px;
  min-width: 0;
}
.mono {
  font-family: var(--mono);
  font-size: 12.5px;
}

.why {
  overflow-wrap: anywhere;
}
td {
  vertical-align: top;
}
.whole {
  justify-items: stretch;
}
.none {
  padding: 12px 16px;
}
.tables {
  margin-top: 14px;
}
summary {
  cursor: pointer;
  min-height: 24px;
}
</style>
