<script setup lang="ts">
import { type HeldDevice, deleteReference, listReferences } from '@jurybox/api/references'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call } from '../api/client.ts'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import type { Column } from '../shared/columns.ts'
import { useQuery } from '../shared/query.ts'
import { useConfirm } from '../stores/confirm.ts'
import { useEngagement } from '../stores/engagement.ts'
import ChangeFileDialog from './ChangeFileDialog.vue'
import ChangesHead from './ChangesHead.vue'
import DerivePanel from './DerivePanel.vue'
import ReferenceAnswer from './ReferenceAnswer.vue'

/** Where each device stands to each reference, by site and feature; references are derived here, and edited. */
const engagement = useEngagement()
const confirm = useConfirm()
const route = useRoute()
const router = useRouter()
const {
  data: view,
  problem,
  reading,
  stop,
  attempt,
  load,
} = useQuery(listReferences, () => (engagement.b ? { query: { snapshot: engagement.b.id } } : {}))
const references = computed(() => view.value?.references ?? [])

/* The matrix: sites or groups by references */
const byGroup = computed(() => route.query['by'] === 'group')
/** The rows that a device belongs to. */
const placesOf = ({ site, groups }: HeldDevice): readonly string[] =>
  byGroup.value ? (groups.length > 0 ? groups : ['']) : [site ?? '']
interface SiteRow {
  readonly id: string
  readonly site: string
  readonly cells: readonly { conforms: number; departs: number; undecided: number }[]
}
const rows = computed((): SiteRow[] => {
  const sites = [...new Set((view.value?.devices ?? []).flatMap(placesOf))].sort()
  return sites.map((site) => {
    const own = (view.value?.devices ?? []).filter((device) => placesOf(device).includes(site))
    const count = (at: number, outcome: string): number =>
      own.filter(({ outcomes }) => outcomes[at]?.outcome === outcome).length
    return {
      site,
      id: site || '-',
      cells: references.value.map((_, i) => ({
        conforms: count(i, 'conforms'),
        departs: count(i, 'departs'),
        undecided: count(i, 'undecided'),
      })),
    }
  })
})
const columns = computed((): Column<SiteRow>[] => [
  {
    key: 'site',
    title: byGroup.value ? t('changes.group') : t('changes.site'),
    value: ({ site }) => site || (byGroup.value ? t('changes.noGroup') : t('changes.noSite')),
  },
  ...references.value.map(({ title, dialect }, i): Column<SiteRow> => ({
    key: `r${i}`,
    title: `${title} (${dialect})`,
    value: ({ cells }) => cells[i]?.departs ?? 0,
  })),
])
const at = computed(() => references.value.findIndex(({ id }) => id === route.query['reference']))
const choose = (query: Readonly<Record<string, string | undefined>>): void =>
  void router.push({ query: { ...route.query, ...query } })
const chosenSite = computed(() => (typeof route.query['site'] === 'string' ? route.query['site'] : null))
const chosenDevice = computed(() => (view.value?.devices ?? []).find(({ name }) => name === route.query['device']))

/* The devices of a cell */
const devices = computed(() =>
  at.value < 0
    ? []
    : (view.value?.devices ?? [])
        .filter(({ outcomes }) => outcomes[at.value]?.outcome !== 'outside')
        .filter((device) => chosenSite.value === null || placesOf(device).includes(chosenSite.value)),
)
const OUTCOMES = {
  conforms: t('changes.conforms'),
  departs: t('changes.departs'),
  undecided: t('changes.outcomeUndecided'),
  outside: t('changes.outside'),
} as const
const outcomeOf = ({ outcomes }: HeldDevice) => outcomes[at.value]
const deviceColumns: Column<HeldDevice>[] = [
  { key: 'name', title: t('common.device'), value: ({ name }) => name },
  { key: 'outcome', title: t('common.outcome'), value: (row) => OUTCOMES[outcomeOf(row)?.outcome ?? 'outside'] },
  { key: 'missing', title: t('changes.missingLines'), value: (row) => outcomeOf(row)?.missing ?? 0, numeric: true },
  { key: 'extra', title: t('changes.extraLines'), value: (row) => outcomeOf(row)?.extra ?? 0, numeric: true },
]

const editing = ref(false)
async function remove(): Promise<void> {
  const reference = references.value[at.value]
  if (!reference) return
  await confirm.deletion(t('changes.reference'), reference.title, async () => {
    if (await attempt(() => call(deleteReference, { params: { reference: reference.id } })))
      choose({ reference: undefined, device: undefined })
  })
}
const deriving = ref(false)
</script>

<template>
  <div class="page">
    <ChangesHead :note="$t('changes.referencesNote')">
      <v-btn v-if="engagement.may.fit" variant="text" @click="editing = true">{{ $t('changes.editYaml') }}</v-btn>
      <v-btn variant="flat" @click="deriving = !deriving">{{ $t('changes.deriveReference') }}</v-btn>
    </ChangesHead>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop()" />
    <DerivePanel
      v-if="deriving && view"
      :features="view.features"
      :save="(body) => attempt(() => body())"
      @saved="deriving = false"
    />
    <template v-if="view">
      <EmptyPage
        v-if="references.length === 0 && !deriving"
        :title="$t('changes.noReferences')"
        :text="$t('changes.noReferencesText')"
      >
        <v-btn variant="flat" @click="deriving = true">{{ $t('changes.deriveReference') }}</v-btn>
      </EmptyPage>
      <v-select
        v-if="references.length > 0"
        :model-value="byGroup ? 'group' : 'site'"
        :items="[
          { value: 'site', title: $t('changes.bySite') },
          { value: 'group', title: $t('changes.byGroup') },
        ]"
        :label="$t('changes.rowsBy')"
        hide-details
        class="by"
        @update:model-value="choose({ by: $event === 'group' ? 'group' : undefined, site: undefined })"
      />
      <DataTable
        v-if="references.length > 0"
        class="panel"
        name="references"
        :label="$t('changes.references')"
        :rows="rows"
        :columns="columns"
      >
        <template v-for="(one, i) in references" :key="one.id" #[`r${i}`]="{ row }">
          <button
            v-if="(row.cells[i]?.conforms ?? 0) + (row.cells[i]?.departs ?? 0) + (row.cells[i]?.undecided ?? 0) > 0"
            type="button"
            class="as-link cell"
            :aria-pressed="at === i && chosenSite === row.site"
            @click="choose({ reference: one.id, site: row.site, device: undefined })"
          >
            <span class="pass">{{ $t('changes.conformCount', { count: row.cells[i]?.conforms ?? 0 }) }}</span>
            <b v-if="row.cells[i]?.departs" class="fail">{{
              $t('changes.departCount', { count: row.cells[i]?.departs ?? 0 })
            }}</b>
            <b v-if="row.cells[i]?.undecided" class="unknown">{{
              $t('changes.undecidedCount', { count: row.cells[i]?.undecided ?? 0 })
            }}</b>
          </button>
          <span v-else class="quiet">–</span>
        </template>
      </DataTable>
      <section v-if="at >= 0" class="panel part" :aria-label="references[at]?.title ?? ''">
        <div class="part-head">
          <h2>{{ references[at]?.title }}</h2>
          <span class="quiet">{{ references[at]?.feature }} · {{ references[at]?.dialect }}</span>
          <v-btn
            v-if="engagement.may.writeRules"
            variant="text"
            class="end"
            :to="`/e/${engagement.id}/rule-bench?reference=${encodeURIComponent(references[at]?.id ?? '')}`"
            >{{ $t('changes.addAsRule') }}</v-btn
          >
          <v-btn v-if="engagement.may.fit" variant="text" @click="remove">{{ $t('changes.deleteReference') }}</v-btn>
        </div>
        <DataTable
          :label="$t('common.devices')"
          :rows="devices"
          :columns="deviceColumns"
          :row-key="({ device }) => device"
          opens
          @open="({ name }) => choose({ device: name })"
        >
          <template #outcome="{ row }"
            ><b :class="outcomeOf(row)?.outcome">{{ OUTCOMES[outcomeOf(row)?.outcome ?? 'outside'] }}</b></template
          >
        </DataTable>
        <ReferenceAnswer
          v-if="chosenDevice && references[at]"
          :reference="references[at]?.id ?? ''"
          :device="chosenDevice.device"
          :name="chosenDevice.name"
        />
      </section>
    </template>
    <ChangeFileDialog v-if="editing" v-model="editing" kind="references" @saved="load()" />
  </div>
</template>

<style scoped>
.cell {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  text-decoration: none;
}
.cell[aria-pressed='true'] {
  text-decoration: underline;
}
.pass,
.conforms {
  color: rgb(var(--v-theme-pass));
}
.fail,
.departs {
  color: rgb(var(--v-theme-fail));
}
.unknown,
.undecided {
  color: rgb(var(--v-theme-unknown));
}
.by {
  max-width: 180px;
  margin-bottom: 10px;
}
.part {
  padding: 12px 16px;
  margin-top: 12px;
}
.part-head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  margin-bottom: 6px;
}
.part-head .end {
  margin-left: auto;
}
h2 {
  font-size: 15px;
}
</style>
