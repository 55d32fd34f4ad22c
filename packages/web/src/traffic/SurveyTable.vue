<script setup lang="ts">
import type { SurveyView } from '@jurybox/api/traffic'
import { useRoute } from 'vue-router'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import ClassList from './ClassList.vue'
import FateMark from './FateMark.vue'
import { countWords, packetWords } from './packet-words.ts'

/** Who reaches a place, or what it reaches: a row for each subnet of hosts, and the world outside. */
const props = defineProps<{ survey: SurveyView; from: string; to: string; only: string }>()
const route = useRoute()
const pair = (place: string) => ({
  query: {
    ...(route.query['b'] === undefined ? {} : { b: route.query['b'] }),
    from: props.from || place,
    to: props.to || place,
    ...(props.only ? { only: props.only } : {}),
  },
})
type Row = SurveyView['rows'][number]
const columns: Column<Row>[] = [
  { key: 'place', title: t('traffic.place'), value: ({ place }) => place },
  { key: 'arrives', title: t('traffic.arrives'), value: ({ arrives }) => arrives?.classes.join('; ') ?? '' },
  {
    key: 'undecided',
    title: t('traffic.undecidedTitle'),
    value: ({ undecided }) => undecided?.classes.join('; ') ?? '',
  },
  {
    key: 'example',
    title: t('traffic.example'),
    value: ({ arrives }) => (arrives?.example ? packetWords(arrives.example) : ''),
  },
]
</script>

<template>
  <section class="panel" :aria-label="$t('traffic.places')">
    <p class="sum">
      <template v-if="to"
        ><b>{{ survey.rows.length }}</b> {{ $t('traffic.ofPlacesCanOpenA', { survey: survey.of, to }) }}</template
      ><template v-else
        >{{ $t('traffic.canOpenAConnectionTo', { from }) }} <b>{{ survey.rows.length }}</b>
        {{ $t('traffic.ofPlaces', { survey: survey.of }) }}</template
      ><span class="quiet">{{ $t('traffic.hostSubnetsAndOutside') }}</span>
    </p>
    <DataTable
      v-if="survey.rows.length > 0"
      name="places"
      :label="$t('traffic.places')"
      :rows="survey.rows"
      :columns="columns"
      :row-key="({ place }) => place"
    >
      <template #place="{ row }">
        <router-link :to="pair(row.place)">{{ row.place }}</router-link>
      </template>
      <template #arrives="{ row }">
        <template v-if="row.arrives"
          ><FateMark :fate="to === 'outside' || row.place === 'outside' ? 'leaves' : 'arrives'" /><ClassList
            :classes="row.arrives.classes"
            :whole="row.arrives.whole"
          /><span class="quiet">{{ $t('traffic.headers', { count: countWords(row.arrives.count) }) }}</span></template
        >
      </template>
      <template #undecided="{ row }">
        <template v-if="row.undecided"
          ><FateMark fate="undecided" /><ClassList :classes="row.undecided.classes" :whole="row.undecided.whole"
        /></template>
      </template>
    </DataTable>
  </section>
</template>

<style scoped>
.sum {
  padding: 10px 14px;
  border-bottom: var(--hair);
}
</style>
