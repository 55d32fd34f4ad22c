<script setup lang="ts">
import { type DocketItemView, exportDocket, getDocket, setGuests } from '@jurybox/api/docket'
import { computed, ref, watch } from 'vue'
import { addressOf, call } from '../api/client.ts'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import type { Column } from '../shared/columns.ts'
import { useAddress } from '../shared/address.ts'
import { useQuery } from '../shared/query.ts'
import { firstOf } from '../shared/words.ts'
import { useEngagement } from '../stores/engagement.ts'

/** The open findings in the order in which to deal with them, by rule, with the formula that orders them. */
const engagement = useEngagement()
const { text, ask } = useAddress()
const asked = computed(() => (engagement.b ? { query: { snapshot: engagement.b.id } } : null))
const { data: view, problem, reading, stop, attempt } = useQuery(getDocket, () => asked.value, { afresh: true })
const EXPOSURES: Readonly<Record<DocketItemView['exposure'], string>> = {
  outside: t('verdicts.reachedFromOutside'),
  undecided: t('verdicts.reachUndecided'),
  guests: t('verdicts.reachedFromGuests'),
  unknown: t('verdicts.reachNotComputed'),
  inside: t('verdicts.reachedFromInside'),
}
const person = computed(() => text('owner'))
const owners = computed(() =>
  [
    ...new Set(
      (view.value?.items ?? []).flatMap(({ findings }) => findings.flatMap(({ said }) => said.owner?.name ?? [])),
    ),
  ].sort(),
)
const NOBODY = '-'
const isOf = ({ said }: DocketItemView['findings'][number]): boolean =>
  person.value === null || (person.value === NOBODY ? said.owner === null : said.owner?.name === person.value)
const items = computed(() =>
  (view.value?.items ?? []).flatMap((item) => {
    const findings = item.findings.filter(isOf)
    return findings.length === 0 ? [] : [{ ...item, findings }]
  }),
)
const opened = ref('')
const keyOf = ({ benchmark, rule }: DocketItemView): string => `${benchmark} ${rule}`
const ownersOf = ({ findings }: DocketItemView): string =>
  firstOf([...new Set(findings.flatMap(({ said }) => said.owner?.name ?? []))], 3)
const dueOf = ({ findings }: DocketItemView): string => findings.flatMap(({ said }) => said.due ?? []).sort()[0] ?? ''
const stateOf = ({ findings }: DocketItemView): string => {
  const done = findings.filter(({ said }) => said.done !== null).length
  const overdue = findings.filter(({ said }) => said.overdue).length
  return [
    ...(overdue > 0 ? [t('verdicts.overdueCount', { count: overdue })] : []),
    ...(done > 0 ? [t('verdicts.doneCount', { count: done })] : []),
  ].join(', ')
}
const columns: Column<DocketItemView>[] = [
  { key: 'priority', title: t('verdicts.priority'), value: ({ priority }) => priority, numeric: true, width: '8%' },
  { key: 'title', title: t('common.rule'), value: ({ title }) => title },
  { key: 'severity', title: t('common.severity'), value: ({ severity }) => severity, width: '10%' },
  { key: 'exposure', title: t('verdicts.exposure'), value: ({ exposure }) => EXPOSURES[exposure], width: '17%' },
  {
    key: 'devices',
    title: t('verdicts.settles'),
    value: ({ findings }) => findings.length,
    numeric: true,
    width: '9%',
  },
  { key: 'owner', title: t('verdicts.owner'), value: ownersOf, width: '12%' },
  { key: 'due', title: t('verdicts.due'), value: dueOf, nowrap: true, width: '10%' },
  { key: 'state', title: t('common.state'), value: stateOf, width: '10%' },
]
const stating = ref(false)
const places = ref('')
watch(view, (now) => (places.value = (now?.guests ?? []).join('\n')))
async function state(): Promise<void> {
  const body = {
    places: places.value
      .split('\n')
      .map((one) => one.trim())
      .filter(Boolean),
  }
  if (await attempt(() => call(setGuests, { body }))) stating.value = false
}
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>{{ $t('verdicts.docket') }}</h1>
        <p class="quiet">{{ $t('verdicts.docketNote') }}</p>
      </div>
      <v-btn v-if="asked && view?.audit" variant="text" :href="addressOf(exportDocket, asked)" download>{{
        $t('changes.exportCsv')
      }}</v-btn>
      <v-btn v-if="engagement.may.describe" variant="outlined" @click="stating = true">{{
        $t('verdicts.setGuests')
      }}</v-btn>
    </div>
    <ProblemNote :text="stating ? '' : problem" />
    <ReadingNote :reading="reading" @stop="stop()" />
    <template v-if="view">
      <EmptyPage
        v-if="view.audit === null"
        :title="$t('verdicts.docketNotAudited')"
        :text="$t('verdicts.docketText')"
      />
      <template v-else>
        <div class="tools">
          <v-select
            :model-value="person"
            :items="[
              { value: null, title: $t('verdicts.everybody') },
              { value: NOBODY, title: $t('verdicts.withoutOwner') },
              ...owners.map((one) => ({ value: one, title: one })),
            ]"
            :label="$t('verdicts.owner')"
            hide-details
            class="owner"
            @update:model-value="ask({ owner: $event })"
          />
          <p class="quiet formula">{{ view.formula }}</p>
        </div>
        <DataTable
          class="panel"
          :label="$t('verdicts.docket')"
          :rows="items"
          :columns="columns"
          :row-key="keyOf"
          :expanded="(row) => keyOf(row) === opened"
          opens
          height="calc(100vh - 290px)"
          @open="(row) => (opened = opened === keyOf(row) ? '' : keyOf(row))"
        >
          <template #severity="{ row }"><SeverityNotches :severity="row.severity" /></template>
          <template #title="{ row }"
            ><b>{{ row.title }}</b></template
          >
          <template #detail="{ row }">
            <ul class="findings">
              <li v-for="one in row.findings" :key="one.verdict">
                <VerdictMark :outcome="one.outcome" />{{ ' ' }}
                <router-link :to="`/e/${engagement.id}/verdicts/${view.audit}/${one.verdict}`">{{
                  one.device
                }}</router-link>{{ ' ' }}<span class="quiet">{{ EXPOSURES[one.exposure] }}</span>
                <span v-if="one.said.owner">{{ ' ' }}{{ one.said.owner.name }}</span>
                <span v-if="one.said.due" :class="{ loud: one.said.overdue }">{{ ' ' }}{{ one.said.due }}</span>
              </li>
            </ul>
          </template>
        </DataTable>
      </template>
    </template>
    <ModalDialog v-if="stating" v-model="stating" :title="$t('verdicts.setGuests')">
      <p>{{ $t('verdicts.guestsText') }}</p>
      <ProblemNote :text="problem" />
      <v-textarea v-model="places" :label="$t('verdicts.guestPlaces')" rows="4" placeholder="10.40.40.0/24" />
      <template #actions>
        <v-btn variant="text" @click="stating = false">{{ $t('common.cancel') }}</v-btn>
        <v-btn variant="flat" @click="state">{{ $t('verdicts.setGuests') }}</v-btn>
      </template>
    </ModalDialog>
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: center;
  margin-bottom: 10px;
}
.owner {
  max-width: 240px;
  min-width: 180px;
}
.formula {
  flex: 1 1 400px;
}
.findings {
  list-style: none;
  padding: 2px 0 6px 12px;
  margin: 0;
  columns: 2 320px;
}
.loud {
  color: rgb(var(--v-theme-fail));
  font-weight: 600;
}
</style>
