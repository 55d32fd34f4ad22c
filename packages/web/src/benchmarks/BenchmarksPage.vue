<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { BenchmarkRow } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useEngagement } from '../stores/engagement.ts'
import ReviewCalendar from './ReviewCalendar.vue'

const engagement = useEngagement()
const rows = ref<BenchmarkRow[]>([])
const problem = ref('')
onMounted(async () => {
  try {
    rows.value = await api.get<BenchmarkRow[]>(`${engagement.base}/benchmarks`)
  } catch (error) {
    problem.value = wordsOf(error)
  }
})
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>Benchmarks</h1>
        <p class="quiet">What devices are judged by, as this engagement fits it.</p>
      </div>
      <v-btn v-if="engagement.may.writeRules" to="rule-bench">Write rules of your own</v-btn>
    </div>
    <ProblemNote :text="problem" />
    <ul class="shelf">
      <li v-for="row in rows" :key="row.id" class="panel">
        <h2>
          <router-link :to="`benchmarks/${row.id}`">{{ row.title }}</router-link>{{ ' ' }}
          <span class="quiet">{{ row.version }}</span>
        </h2>
        <p>{{ row.statement }}</p>
        <p class="quiet">
          {{ row.rules === 0 ? '' : `${row.selected} of ${row.rules} rules in the profile ${row.profile}`
          }}{{ row.attestations > 0 ? `${row.attestations} questions to people` : '' }}
        </p>
      </li>
    </ul>
    <ReviewCalendar />
  </div>
</template>

<style scoped>
.shelf {
  list-style: none;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 12px;
  grid-template-columns: repeat(auto-fill, minmax(360px, 1fr));
}
.shelf li {
  padding: 16px 18px;
  display: grid;
  gap: 6px;
}
h2 .quiet {
  font-weight: 400;
  font-size: 14px;
}
</style>
