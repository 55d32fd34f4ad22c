<script setup lang="ts">
import { type CheckResultView, type CheckRowView, listChecks, runCheckSet } from '@jurybox/api/checks'
import { computed, ref, watch } from 'vue'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import type { Column } from '../shared/columns.ts'
import { useAddress } from '../shared/address.ts'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import ChangeFileDialog from './ChangeFileDialog.vue'
import ChangesHead from './ChangesHead.vue'
import SnapshotPair from './SnapshotPair.vue'
import { CHECK_OUTCOME_WORDS, rowWords } from './change-words.ts'

/** A set of checks on change, run over A and B: what fails comes first, with the rows that fail. */
const engagement = useEngagement()
const exhibit = useExhibit()
const { text, ask } = useAddress()
const { data: shelf, load: loadShelf } = useQuery(listChecks, () => ({}))
const sets = computed(() => shelf.value?.sets ?? [])
const set = computed(() => {
  return sets.value.find(({ id }) => id === text('set')) ?? sets.value[0] ?? null
})
const asked = computed(() =>
  engagement.a && engagement.b && set.value
    ? { query: { a: engagement.a.id, b: engagement.b.id, set: set.value.id } }
    : null,
)
const {
  data: results,
  problem,
  reading,
  loading,
  stop,
  load,
} = useQuery(runCheckSet, () => asked.value, { afresh: true })

const editing = ref(false)
const afresh = (): void => void loadShelf().then(() => load())

interface Row extends CheckResultView {
  readonly id: string
  readonly device: string
}
const ORDER: readonly CheckResultView['outcome'][] = ['fail', 'error', 'unknown', 'pending', 'pass', 'notchecked']
const all = computed((): Row[] =>
  (results.value?.results ?? [])
    .flatMap(({ device, results: own }) =>
      own.map((one) => ({
        ...one,
        id: `${device?.id ?? 0} ${one.check}`,
        device: device?.name ?? t('changes.theNetwork'),
      })),
    )
    .toSorted((x, y) => ORDER.indexOf(x.outcome) - ORDER.indexOf(y.outcome)),
)
/** Devices that only one of the two snapshots has are not passed over. */
const absent = computed(() =>
  (['a', 'b'] as const).flatMap((only) => {
    const names = (results.value?.absent ?? []).filter((one) => one.only === only).map(({ name }) => name)
    const devices = names.join(', ')
    return names.length === 0
      ? []
      : [{ only, words: only === 'a' ? t('changes.onlyInA', { devices }) : t('changes.onlyInB', { devices }) }]
  }),
)
const withPassing = ref(false)
const isLoud = ({ outcome }: Row): boolean => outcome !== 'pass' && outcome !== 'notchecked'
const rows = computed(() => (withPassing.value ? all.value : all.value.filter(isLoud)))
const counts = computed(() =>
  Object.fromEntries(ORDER.map((outcome) => [outcome, all.value.filter((one) => one.outcome === outcome).length])),
)
const DOUBTS = {
  'not-captured': t('changes.doubtCheckNotCaptured'),
  incomplete: t('changes.doubtCheckIncomplete'),
  unparsed: t('changes.doubtCheckUnparsed'),
} as const
const SIDES = { a: 'A', b: 'B', both: t('changes.bothSides') } as const
const doubtOf = ({ doubt }: Row): string => (doubt ? `${DOUBTS[doubt.code]} (${SIDES[doubt.side]})` : '')
const detailOf = (row: Row): string => [...row.failing.map(rowWords), doubtOf(row), row.error ?? ''].join(' ')
const columns: Column<Row>[] = [
  { key: 'device', title: t('common.device'), value: ({ device }) => device, width: '14%' },
  { key: 'title', title: t('changes.check'), value: ({ title }) => title, width: '30%' },
  { key: 'outcome', title: t('common.outcome'), value: ({ outcome }) => CHECK_OUTCOME_WORDS[outcome], width: '11%' },
  { key: 'failing', title: t('changes.rows'), value: detailOf },
]
const opened = ref<ReadonlySet<string>>(new Set())
watch(results, () => (opened.value = new Set()))
function toggle({ id }: Row): void {
  const next = new Set(opened.value)
  if (!next.delete(id)) next.add(id)
  opened.value = next
}
const FIRST = 3
const shownOf = (row: Row): readonly CheckRowView[] =>
  opened.value.has(row.id) ? row.failing : row.failing.slice(0, FIRST)
const linesOf = ({ a, b }: CheckRowView) => (b.length > 0 ? b : a)
</script>

<template>
  <div class="page">
    <ChangesHead :note="$t('changes.checksNote')">
      <v-btn v-if="engagement.may.fit" variant="text" @click="editing = true">{{ $t('changes.editYaml') }}</v-btn>
      <v-btn v-if="asked" variant="outlined" :disabled="loading" @click="load()">{{ $t('changes.checkAgain') }}</v-btn>
    </ChangesHead>
    <EmptyPage
      v-if="engagement.snapshots.length < 2"
      :title="$t('changes.twoSnapshotsNeeded')"
      :text="$t('changes.twoSnapshotsText')"
    />
    <template v-else>
      <div class="tools">
        <SnapshotPair />
        <v-select
          :model-value="set?.id"
          :items="sets.map(({ id, title }) => ({ value: id, title }))"
          :label="$t('changes.checkSet')"
          hide-details
          class="set"
          @update:model-value="ask({ set: $event })"
        />
      </div>
      <ProblemNote :text="problem" />
      <ReadingNote :reading="reading" @stop="stop()" />
      <template v-if="results">
        <p class="sum">
          <b>{{ $t('changes.checkSummary', counts) }}</b>
          <v-checkbox v-model="withPassing" :label="$t('changes.showPassing')" density="compact" hide-details />
        </p>
        <p v-for="one in absent" :key="one.only" class="unknown absent">{{ one.words }}</p>
        <DataTable
          class="panel"
          name="checks"
          :label="$t('changes.checks')"
          :rows="rows"
          :columns="columns"
          height="calc(100vh - 330px)"
          opens
          :empty="$t('changes.noFailingChecks')"
          @open="toggle"
        >
          <template #outcome="{ row }"
            ><b :class="row.outcome">{{ CHECK_OUTCOME_WORDS[row.outcome] }}</b></template
          >
          <template #failing="{ row }">
            <p v-if="row.error">{{ row.error }}</p>
            <p v-if="row.doubt" class="quiet">{{ doubtOf(row) }}</p>
            <ul v-if="row.failing.length > 0">
              <li v-for="(one, i) in shownOf(row)" :key="i">
                <button
                  v-if="linesOf(one).length > 0"
                  type="button"
                  class="as-link mono"
                  @click.stop="exhibit.revealLines(linesOf(one))"
                >
                  {{ rowWords(one) }}
                </button>
                <span v-else class="mono">{{ rowWords(one) }}</span>
              </li>
            </ul>
            <span v-if="row.failing.length > shownOf(row).length" class="quiet">{{
              $t('common.andMore', { n: row.failing.length - FIRST })
            }}</span>
          </template>
        </DataTable>
      </template>
    </template>
    <ChangeFileDialog v-if="editing" v-model="editing" kind="checks" @saved="afresh()" />
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
  margin-bottom: 10px;
}
.set {
  min-width: 200px;
  max-width: 300px;
}
.sum {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 18px;
}
.absent {
  margin-bottom: 8px;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
.mono {
  font-family: var(--mono);
  font-size: 12.5px;
  text-align: left;
  overflow-wrap: anywhere;
}
.fail,
.error {
  color: rgb(var(--v-theme-fail));
}
.pass {
  color: rgb(var(--v-theme-pass));
}
.unknown,
.pending {
  color: rgb(var(--v-theme-unknown));
}
</style>
