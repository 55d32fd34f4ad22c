<script setup lang="ts">
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { compareRecords, recordHistory } from '@jurybox/api/archive'
import { computed, ref, watch } from 'vue'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useExhibit } from '../stores/exhibit.ts'

/** Every state of each record of a device; any two are laid beside each other. */
const props = defineProps<{ device: number }>()
const exhibit = useExhibit()
const { data, problem: unlisted } = useQuery(recordHistory, () => ({ params: { device: props.device } }))
const kinds = computed(() => data.value ?? [])
const kind = ref('')
const left = ref<number | null>(null)
const right = ref<number | null>(null)
const spells = computed(() => kinds.value.find((one) => one.kind === kind.value)?.spells.toReversed() ?? [])
watch(kinds, ([first]) => (kind.value = first?.kind ?? ''))
// The newest beside the one before it.
watch(spells, (all) => {
  right.value = all[0]?.record ?? null
  left.value = all[1]?.record ?? null
})
const { data: beside, problem: uncompared } = useQuery(
  compareRecords,
  () =>
    left.value === null || right.value === null || left.value === right.value
      ? null
      : { params: { record: left.value, other: right.value } },
  { afresh: true },
)
const problem = computed(() => unlisted.value || uncompared.value)
function show(record: number): void {
  exhibit.open = true
  void exhibit.show(record)
}
const columns: Column<(typeof spells.value)[number]>[] = [
  { key: 'left', title: t('estate.left'), value: () => '', acts: true },
  { key: 'right', title: t('estate.right'), value: () => '', acts: true },
  { key: 'from', title: t('estate.firstSeen'), value: ({ from }) => from },
  { key: 'to', title: t('estate.lastSeen'), value: ({ to }) => to },
  { key: 'lines', title: t('common.lines'), value: ({ lines }) => lines, numeric: true },
  { key: 'by', title: t('estate.importedBy'), value: ({ by }) => by },
  { key: 'snapshots', title: t('common.snapshots'), value: ({ snapshots }) => snapshots.join(', ') },
]
</script>

<template>
  <div class="history">
    <ProblemNote :text="problem" />
    <v-select
      v-model="kind"
      :items="
        kinds.map((one) => ({
          value: one.kind,
          title: `${one.title}, ${one.spells.length} ${one.spells.length === 1 ? 'state' : 'states'}`,
        }))
      "
      :label="$t('common.record')"
      class="which"
    />
    <DataTable
      class="panel"
      name="history"
      :label="$t('estate.history')"
      :rows="spells"
      :columns="columns"
      :row-key="({ record }) => record"
    >
      <template #left="{ row: spell }">
        <input
          v-model="left"
          type="radio"
          :name="$t('estate.leftSide')"
          :value="spell.record"
          :aria-label="$t('estate.leftFirstSeen', { from: spell.from })"
        />
      </template>
      <template #right="{ row: spell }">
        <input
          v-model="right"
          type="radio"
          :name="$t('estate.rightSide')"
          :value="spell.record"
          :aria-label="$t('estate.rightFirstSeen', { from: spell.from })"
        />
      </template>
      <template #from="{ row: spell }">
        <button type="button" class="as-link" :title="spell.fingerprint" @click="show(spell.record)">
          <AgeText :at="spell.from" />
        </button>
      </template>
      <template #to="{ row: spell }"><AgeText :at="spell.to" /></template>
    </DataTable>
    <p v-if="spells.length === 1" class="quiet">{{ $t('estate.itNeverChanged') }}</p>
    <template v-if="beside">
      <p>
        {{
          beside.changed === 0
            ? $t('estate.noDifferences')
            : `${beside.changed} ${beside.changed === 1 ? $t('estate.lineDiffers') : $t('estate.linesDiffer')}.`
        }}
      </p>
      <div
        v-if="beside.changed > 0"
        class="panel sheets mono"
        tabindex="0"
        role="region"
        :aria-label="$t('estate.comparison')"
      >
        <template v-for="(row, i) in beside.rows" :key="i">
          <div v-if="row === null" class="cut quiet">…</div>
          <div v-else class="row" :class="{ changed: !row.same }">
            <span class="no">{{ row.a ?? '' }}</span><span class="text" :class="{ gone: !row.same && row.a !== null }"
              ><span v-if="!row.same && row.a !== null" class="sign">−</span>{{ row.left }}</span
            >
            <span class="no">{{ row.b ?? '' }}</span><span class="text" :class="{ come: !row.same && row.b !== null }"
              ><span v-if="!row.same && row.b !== null" class="sign">+</span>{{ row.right }}</span
            >
          </div>
        </template>
      </div>
    </template>
  </div>
</template>

<style scoped>
.history {
  display: grid;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr);
  padding: 12px;
}
.which {
  max-width: 360px;
}
.sheets {
  overflow: auto;
  max-height: 60vh;
  padding: 6px 0;
}
.row {
  display: grid;
  grid-template-columns: 44px minmax(0, 1fr) 44px minmax(0, 1fr);
}
.no {
  text-align: right;
  padding-right: 8px;
  color: rgb(var(--v-theme-quiet));
}
.text {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  padding-left: 16px;
  position: relative;
}
.sign {
  position: absolute;
  left: 3px;
  font-weight: 600;
}
.gone {
  border-left: 3px solid rgb(var(--v-theme-fail));
}
.come {
  border-left: 3px solid rgb(var(--v-theme-pass));
}
.changed {
  background: rgba(var(--v-theme-brass), 0.1);
}
.cut {
  padding-left: 52px;
}
</style>
