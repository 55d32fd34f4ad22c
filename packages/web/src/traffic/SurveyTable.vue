<script setup lang="ts">
import type { SurveyView } from '@jurybox/api/traffic'
import { useRoute } from 'vue-router'
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
    <table v-if="survey.rows.length > 0" class="rows">
      <thead>
        <tr>
          <th scope="col">{{ $t('traffic.place') }}</th>
          <th scope="col">{{ $t('traffic.arrives') }}</th>
          <th scope="col">{{ $t('traffic.undecided2') }}</th>
          <th scope="col">{{ $t('traffic.example') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in survey.rows" :key="row.place">
          <td>
            <router-link :to="pair(row.place)">{{ row.place }}</router-link>
          </td>
          <td>
            <template v-if="row.arrives"
              ><FateMark :fate="to === 'outside' || row.place === 'outside' ? 'leaves' : 'arrives'" /><ClassList
                :classes="row.arrives.classes"
                :whole="row.arrives.whole"
              /><span class="quiet">{{
                $t('traffic.headers', { count: countWords(row.arrives.count) })
              }}</span></template
            >
          </td>
          <td>
            <template v-if="row.undecided"
              ><FateMark fate="undecided" /><ClassList :classes="row.undecided.classes" :whole="row.undecided.whole"
            /></template>
          </td>
          <td class="words">{{ row.arrives?.example ? packetWords(row.arrives.example) : '' }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.sum {
  padding: 10px 14px;
  border-bottom: var(--hair);
}
.words {
  overflow-wrap: anywhere;
}
td {
  vertical-align: top;
}
</style>
