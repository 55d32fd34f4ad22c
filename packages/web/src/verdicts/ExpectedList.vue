<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import type { TrafficView } from '../api/traffic-types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { useEngagement } from '../stores/engagement.ts'
import { useAsOfB } from '../traffic/as-of-b.ts'

/** The verdicts of expectations of traffic; of one framework where the grid is by its requirements. */
const engagement = useEngagement()
const route = useRoute()
const { found, problem, reading, stop } = useAsOfB<TrafficView>('')
const all = computed(() => found.value?.expectations ?? [])
const OUTCOMES = { broken: 'fail', undecided: 'unknown', holds: 'pass' } as const
const ORDER = ['broken', 'undecided', 'holds']
const framework = computed(() => (typeof route.query['group'] === 'string' ? `${route.query['group']}:` : null))
const isOfIt = (reference: string): boolean => framework.value === null || reference.startsWith(framework.value)
/** Where nothing of what is expected names the framework, the grid is by something else. */
const named = computed(() => all.value.filter(({ references }) => references.some(isOfIt)))
const shown = computed(() =>
  [...(framework.value !== null && named.value.length > 0 ? named.value : all.value)].sort(
    (a, b) => ORDER.indexOf(a.outcome) - ORDER.indexOf(b.outcome),
  ),
)
</script>

<template>
  <ProblemNote :text="problem" />
  <ReadingNote :reading="reading" @stop="stop" />
  <section v-if="shown.length > 0" class="panel expected" aria-label="Expectations of traffic">
    <h2>Expectations of traffic</h2>
    <table class="rows">
      <thead>
        <tr>
          <th scope="col">Verdict</th>
          <th scope="col">Severity</th>
          <th scope="col">Expectation</th>
          <th scope="col">What was found</th>
          <th scope="col">Evidence for</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in shown" :key="one.id">
          <td><VerdictMark :outcome="OUTCOMES[one.outcome]" :waived="one.waived !== null" /></td>
          <td><SeverityNotches :severity="one.severity" /></td>
          <td>
            <router-link :to="`/e/${engagement.id}/traffic?expectation=${one.id}`">{{ one.title }}</router-link>
          </td>
          <td class="words">{{ one.words }}</td>
          <td class="words">{{ one.references.join(', ') }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.expected {
  margin-top: 14px;
}
h2 {
  font-size: 15px;
  padding: 10px 14px 4px;
}
.words {
  overflow-wrap: anywhere;
}
td {
  vertical-align: top;
}
</style>
