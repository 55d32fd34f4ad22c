<script setup lang="ts">
import { useRoute } from 'vue-router'
import type { SurveyView } from '../api/traffic-types.ts'
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
  <section class="panel" aria-label="Places">
    <p class="sum">
      <template v-if="to"
        ><b>{{ survey.rows.length }}</b> of {{ survey.of }} places can begin a connection with {{ to }}</template
      ><template v-else
        >{{ from }} can begin a connection with <b>{{ survey.rows.length }}</b> of {{ survey.of }} places</template
      ><span class="quiet">: subnets of hosts, and the world outside</span>
    </p>
    <table v-if="survey.rows.length > 0" class="rows">
      <thead>
        <tr>
          <th scope="col">Place</th>
          <th scope="col">Arrives</th>
          <th scope="col">Undecided</th>
          <th scope="col">One of them</th>
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
              /><span class="quiet">{{ countWords(row.arrives.count) }} headers</span></template
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
