<script setup lang="ts">
import {
  type AccessListChangeView,
  type InterfaceRatesView,
  type SensorReadingView,
  type StateChangeView,
  compareSides,
  exportPatch,
  listSideTexts,
} from '@jurybox/api/changes'
import { listDevices } from '@jurybox/api/devices'
import { compareTraffic } from '@jurybox/api/traffic'
import { LISTINGS, type Listing } from '@jurybox/core/compare'
import { computed, ref } from 'vue'
import { addressOf } from '../api/client.ts'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import type { Column } from '../shared/columns.ts'
import { useAddress } from '../shared/address.ts'
import { useQuery } from '../shared/query.ts'
import { absoluteTime, spanWords } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import ClassList from '../traffic/ClassList.vue'
import FateMark from '../traffic/FateMark.vue'
import { firstOf, shareWords } from '../shared/words.ts'
import SideBySide from './SideBySide.vue'
import SnapshotPair from './SnapshotPair.vue'
import StatementList from './StatementList.vue'
import { authorWords, bitsWords, doubtWords, explanationWords, isUnexplained, valueWords } from './change-words.ts'

/**
 * Two sides in full: what changed and what it means, the lines beside each other, rows of the state, findings and
 * connections. The sides are one device in two snapshots, two devices, or two listings.
 */
const engagement = useEngagement()
const exhibit = useExhibit()
const { text, ask } = useAddress()
const listing = (name: string): Listing => LISTINGS.find((one) => one === text(name)) ?? 'config'
const deviceA = computed(() => text('device'))
const deviceB = computed(() => text('with') ?? deviceA.value)
const question = computed(() =>
  engagement.a && engagement.b && deviceA.value
    ? {
        query: {
          a: engagement.a.id,
          b: engagement.b.id,
          deviceA: deviceA.value,
          ...(deviceB.value && deviceB.value !== deviceA.value ? { deviceB: deviceB.value } : {}),
          listingA: listing('listingA'),
          listingB: listing('listingB'),
        },
      }
    : null,
)
const { data: view, problem, reading, stop } = useQuery(compareSides, () => question.value, { afresh: true })
const shows = ref<'text' | 'statements'>('text')
const { data: texts, problem: noTexts } = useQuery(
  listSideTexts,
  () => (shows.value === 'text' ? question.value : null),
  { afresh: true },
)
const isOne = computed(
  () => deviceA.value === deviceB.value && listing('listingA') === 'config' && listing('listingB') === 'config',
)
const { data: traffic, reading: tracing } = useQuery(
  compareTraffic,
  () => (isOne.value && engagement.a && engagement.b ? { query: { a: engagement.a.id, b: engagement.b.id } } : null),
  { afresh: true },
)
const flows = computed(() => (traffic.value?.changes ?? []).filter(({ decision }) => decision.device === deviceA.value))
const { data: estate } = useQuery(listDevices, () => (engagement.b ? { query: { snapshot: engagement.b.id } } : null))
const devices = computed(() => (estate.value?.devices ?? []).map(({ name }) => name))
const LISTING_WORDS: Readonly<Record<Listing, string>> = {
  config: t('changes.listingRunning'),
  'config.saved': t('changes.listingSaved'),
  'config.full': t('changes.listingFull'),
}
const listings = LISTINGS.map((value) => ({ value, title: LISTING_WORDS[value] }))

const statements = computed(() => (view.value?.records ?? []).reduce((sum, one) => sum + one.statements.length, 0))
const titleOf = (side: 'a' | 'b'): string => {
  const of = view.value?.[side]
  return of
    ? `${of.device.name}, ${of.snapshot.title}${of.listing === 'config' ? '' : `, ${LISTING_WORDS[of.listing]}`}`
    : ''
}
type Lines = readonly { readonly record: number; readonly from: number; readonly to: number }[]
/** Opens the lines of one side; of B where it has some. */
function reveal({ a, b }: { readonly a: Lines; readonly b: Lines }): void {
  void exhibit.revealLines(b.length > 0 ? b : a)
}

const WAY_WORDS = {
  permits: t('changes.permits'),
  denies: t('changes.denies'),
  undecided: t('changes.undecided'),
} as const
/** What an access list does otherwise, each way with its packets. */
const waysOf = (change: AccessListChangeView) =>
  (['permits', 'denies', 'undecided'] as const).flatMap((way) => {
    const set = change[way]
    return set ? [{ way, set }] : []
  })
const stateColumns: Column<StateChangeView>[] = [
  { key: 'title', title: t('changes.table'), value: ({ title }) => title, width: '18%' },
  { key: 'key', title: t('changes.row'), value: ({ key }) => key, mono: true, width: '26%' },
  {
    key: 'change',
    title: t('changes.change'),
    value: ({ change, fields }) =>
      change === 'changed'
        ? fields.map(({ field, before, after }) => `${field} ${before ?? '–'} → ${after ?? '–'}`).join(', ')
        : change === 'appeared'
          ? t('changes.appeared')
          : t('changes.vanished'),
  },
]
const growthWords = ({ code, delta }: InterfaceRatesView['growth']['inErrors']): string =>
  code === 'reset'
    ? t('changes.reset')
    : delta === null
      ? ''
      : `${delta}${code === 'wrapped' ? ` (${t('changes.wrapped')})` : ''}`
const rateColumns: Column<InterfaceRatesView>[] = [
  { key: 'name', title: t('estate.interface'), value: ({ name }) => name, mono: true },
  {
    key: 'in',
    title: t('changes.inbound'),
    value: ({ inBits }) => bitsWords(inBits),
    raw: ({ inBits }) => inBits ?? '',
  },
  {
    key: 'out',
    title: t('changes.outbound'),
    value: ({ outBits }) => bitsWords(outBits),
    raw: ({ outBits }) => outBits ?? '',
  },
  {
    key: 'use',
    title: t('changes.use'),
    value: ({ inUse, outUse }) => [inUse, outUse].map(shareWords).filter(Boolean).join(' / '),
  },
  {
    key: 'errors',
    title: t('changes.errors'),
    value: ({ growth }) => [growth.inErrors, growth.outErrors].map(growthWords).filter(Boolean).join(' / '),
  },
  {
    key: 'discards',
    title: t('changes.discards'),
    value: ({ growth }) => [growth.inDiscards, growth.outDiscards].map(growthWords).filter(Boolean).join(' / '),
  },
]
const sensorColumns: Column<SensorReadingView>[] = [
  { key: 'name', title: t('changes.sensor'), value: ({ kind, name }) => `${kind} ${name}` },
  { key: 'before', title: t('changes.sensorBefore'), value: ({ before }) => before ?? '' },
  { key: 'after', title: t('changes.sensorAfter'), value: ({ after }) => after ?? '' },
  {
    key: 'difference',
    title: t('changes.sensorDifference'),
    value: ({ difference }) => (difference === null ? '' : difference > 0 ? `+${difference}` : String(difference)),
    raw: ({ difference }) => difference ?? '',
  },
  {
    key: 'ok',
    title: t('changes.sensorState'),
    value: ({ ok }) => (ok === null ? '' : ok ? t('changes.sensorOk') : t('changes.sensorNotOk')),
  },
]
const FINDING_WORDS = {
  new: t('changes.findingNew'),
  resolved: t('changes.findingResolved'),
  open: t('changes.findingOpen'),
} as const
const turned = computed(() => (view.value?.findings ?? []).filter(({ change }) => change !== 'open'))
</script>

<template>
  <div class="page">
    <EmptyPage v-if="!deviceA" whole :title="$t('changes.noChanges')" :text="$t('changes.note')">
      <v-btn variant="flat" :to="`/e/${engagement.id}/changes`">{{ $t('changes.back') }}</v-btn>
    </EmptyPage>
    <template v-else>
      <div class="page-head">
        <div class="grow">
          <h1>
            {{ deviceA }}<template v-if="deviceB !== deviceA"> · {{ deviceB }}</template>
          </h1>
          <p class="quiet">
            <router-link :to="`/e/${engagement.id}/changes`">{{ $t('changes.back') }}</router-link>
            <template v-if="view"> · {{ $t('changes.deviceNote', { a: titleOf('a'), b: titleOf('b') }) }}</template>
          </p>
        </div>
        <v-btn v-if="question" variant="text" :href="addressOf(exportPatch, question)" download>{{
          $t('changes.downloadPatch')
        }}</v-btn>
      </div>
      <SnapshotPair />
      <div class="which">
        <v-select
          :model-value="listing('listingA')"
          :items="listings"
          :label="`${$t('changes.sideA')}: ${$t('changes.listing')}`"
          hide-details
          @update:model-value="ask({ listingA: $event })"
        />
        <v-autocomplete
          :model-value="deviceB"
          :items="devices"
          :label="$t('changes.sideB')"
          hide-details
          @update:model-value="$event && ask({ with: $event })"
        />
        <v-select
          :model-value="listing('listingB')"
          :items="listings"
          :label="`${$t('changes.sideB')}: ${$t('changes.listing')}`"
          hide-details
          @update:model-value="ask({ listingB: $event })"
        />
      </div>
      <ProblemNote :text="problem || noTexts" />
      <ReadingNote :reading="reading" @stop="stop()" />
      <template v-if="view">
        <p v-if="view.authors.length > 0 || view.explained || isOne" class="who">
          <span v-for="(one, i) in view.authors" :key="i">
            {{ $t('changes.changedBy') }} <b>{{ authorWords(one) }}</b><span v-if="one.at" class="quiet"
              >{{ ' ' }}{{ absoluteTime(one.at) }}</span
            >
          </span>
          <b v-if="view.explained">{{ explanationWords(view.explained) }}</b>
          <b
            v-else-if="isUnexplained({ configured: view.authors.length > 0, explained: view.explained })"
            class="loud"
            >{{ $t('changes.isUnexplained') }}</b
          >
        </p>

        <section class="panel part" :aria-label="$t('changes.meaning')">
          <h2>{{ $t('changes.meaning') }}</h2>
          <p v-if="view.model.length + view.accessLists.length === 0" class="quiet">{{ $t('changes.noMeaning') }}</p>
          <ul v-else class="meanings">
            <li v-for="(one, i) in view.accessLists" :key="`l${i}`">
              <button type="button" class="as-link" @click="reveal(one)">
                {{ $t('changes.accessList', { list: one.list }) }}</button><span
                v-if="one.interfaces.length > 0"
                class="quiet"
                >{{ ' ' }}{{ one.interfaces.join(', ') }}</span
              >
              <span v-if="one.tooComplex" class="loud">{{ ' ' }}{{ $t('changes.tooComplex') }}</span>
              <span v-else-if="!one.permits && !one.denies && !one.undecided"
                >{{ ' ' }}{{ $t('changes.samePackets') }}</span
              >
              <div v-for="way in waysOf(one)" :key="way.way" class="way">
                {{ WAY_WORDS[way.way] }}
                <ClassList :classes="way.set.classes" :whole="way.set.whole" :first="3" />
              </div>
            </li>
            <li v-for="(one, i) in view.model" :key="`m${i}`">
              <button type="button" class="as-link" @click="reveal(one)">
                {{ [...one.subject, one.field].filter(Boolean).join(', ') }}</button>{{ ' '
              }}<span>{{ valueWords(one) }}</span>
            </li>
          </ul>
        </section>

        <section class="panel part" :aria-label="$t('changes.linesTitle')">
          <div class="part-head">
            <h2>{{ $t('changes.linesTitle') }}</h2>
            <span class="quiet">{{
              statements === 0 ? $t('changes.noStatements') : $t('changes.statements', statements)
            }}</span>
            <v-btn-toggle v-model="shows" mandatory density="compact" class="shows">
              <v-btn value="text">{{ $t('changes.asText') }}</v-btn>
              <v-btn value="statements">{{ $t('changes.asStatements') }}</v-btn>
            </v-btn-toggle>
          </div>
          <SideBySide
            v-if="shows === 'text' && texts"
            :a="texts.a"
            :b="texts.b"
            :title-a="titleOf('a')"
            :title-b="titleOf('b')"
          />
          <StatementList v-if="shows === 'statements'" :records="view.records" @reveal="reveal" />
        </section>

        <section v-if="isOne" class="panel part" :aria-label="$t('changes.openFindings')">
          <h2>{{ $t('changes.openFindings') }}</h2>
          <p v-if="turned.length === 0" class="quiet">{{ $t('changes.noFindings') }}</p>
          <ul v-else class="meanings">
            <li v-for="one in turned" :key="`${one.audit} ${one.verdict}`">
              <b :class="{ loud: one.change === 'new' }">{{ FINDING_WORDS[one.change] }}</b>{{ ' ' }}
              <SeverityNotches :severity="one.severity" />{{ ' ' }}
              <router-link :to="`/e/${engagement.id}/verdicts/${one.audit}/${one.verdict}`">{{
                one.title
              }}</router-link>
            </li>
          </ul>
          <h2 class="second">{{ $t('changes.flows') }}</h2>
          <ReadingNote :reading="tracing" />
          <p v-if="traffic && flows.length === 0" class="quiet">{{ $t('changes.noFlows') }}</p>
          <ul v-if="flows.length > 0" class="meanings">
            <li v-for="(one, i) in flows" :key="i">
              <FateMark v-for="fate in one.before" :key="fate" :fate="fate" /> →
              <FateMark v-for="fate in one.after" :key="fate" :fate="fate" />{{ ' ' }} {{ firstOf(one.from, 3) }}
              <span class="quiet">{{ $t('traffic.toWord') }}</span> {{ firstOf(one.to, 3) }}
            </li>
          </ul>
        </section>

        <section class="panel part" :aria-label="$t('changes.stateTitle')">
          <h2>{{ $t('changes.stateTitle') }}</h2>
          <p v-if="view.state.length === 0" class="quiet">{{ $t('changes.noState') }}</p>
          <DataTable
            v-else
            name="state-changes"
            :label="$t('changes.stateTitle')"
            :rows="view.state"
            :columns="stateColumns"
            opens
            @open="reveal"
          />
        </section>

        <section v-if="view.rates.rates.length > 0 && isOne" class="panel part" :aria-label="$t('changes.rates')">
          <h2>{{ $t('changes.rates') }}</h2>
          <p class="quiet">
            {{
              view.rates.seconds === null
                ? $t('changes.ratesNoTime')
                : $t('changes.ratesNote', { time: spanWords(view.rates.seconds) })
            }}
          </p>
          <DataTable
            name="rates"
            :label="$t('changes.rates')"
            :rows="view.rates.rates"
            :columns="rateColumns"
            :row-key="({ name }) => name"
          />
        </section>

        <section v-if="view.rates.sensors.length > 0 && isOne" class="panel part" :aria-label="$t('changes.sensors')">
          <h2>{{ $t('changes.sensors') }}</h2>
          <DataTable
            name="sensors"
            :label="$t('changes.sensors')"
            :rows="view.rates.sensors"
            :columns="sensorColumns"
            :row-key="({ kind, name }) => `${kind} ${name}`"
          />
        </section>

        <section v-if="view.doubts.length > 0" class="panel part" :aria-label="$t('changes.notCompared')">
          <h2>{{ $t('changes.notCompared') }}</h2>
          <ul class="meanings">
            <li v-for="(one, i) in view.doubts" :key="i">
              <b v-if="one.side">{{ $t('changes.onSide', { side: one.side.toUpperCase() }) }}</b>{{ ' ' }}
              <button
                v-if="one.lines.length > 0"
                type="button"
                class="as-link"
                @click="reveal({ a: [], b: one.lines })"
              >
                {{ doubtWords(one) }}
              </button>
              <span v-else>{{ doubtWords(one) }}</span>
            </li>
          </ul>
        </section>
      </template>
    </template>
  </div>
</template>

<style scoped>
.which {
  display: grid;
  grid-template-columns: repeat(3, minmax(160px, 260px));
  gap: 8px;
  margin: 8px 0;
}
.who {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin: 8px 0;
}
.loud {
  color: rgb(var(--v-theme-fail));
  font-weight: 600;
}
.part {
  padding: 12px 16px;
  margin-bottom: 12px;
  min-width: 0;
}
.part-head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  margin-bottom: 8px;
}
.shows {
  margin-left: auto;
}
h2 {
  font-size: 15px;
}
.second {
  margin-top: 12px;
}
.meanings {
  list-style: none;
  padding: 0;
  margin: 6px 0 0;
  display: grid;
  gap: 3px;
}
.meanings li {
  overflow-wrap: anywhere;
}
.way {
  display: block;
  padding-left: 16px;
}
code {
  font-family: var(--mono);
  font-size: 12.5px;
}
@media (max-width: 700px) {
  .which {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
