<script setup lang="ts">
import { computed, ref } from 'vue'
import { FINDING_WORDS, type FilterFindingKind } from '@jurybox/core/forwarding'
import type { FindingView } from '../api/traffic-types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import ClassList from './ClassList.vue'
import ListCompare from './ListCompare.vue'
import KindChoice from './KindChoice.vue'
import LineLinks from './LineLinks.vue'
import TrafficHead from './TrafficHead.vue'
import { useAsOfB } from './as-of-b.ts'

/** What is odd about the lines of access lists, by exact sets of headers. */
const { found: findings, problem, reading, stop } = useAsOfB<FindingView[]>('/filters')
const kind = ref('')
const title = (one: string): string => FINDING_WORDS[one as FilterFindingKind] ?? one
const kinds = computed(() =>
  [...new Set((findings.value ?? []).map((one) => one.kind))].map((one) => ({
    id: one,
    title: title(one),
    count: (findings.value ?? []).filter((other) => other.kind === one).length,
  })),
)
/** What matters most first: contradictions are often exceptions that were meant. */
const ORDER = ['missing', 'open', 'never-matches', 'nowhere', 'changes-nothing', 'unjudged', 'contradicts']
const shown = computed(() =>
  (findings.value ?? [])
    .filter((one) => kind.value === '' || one.kind === kind.value)
    .sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind)),
)
</script>

<template>
  <div class="page">
    <TrafficHead
      note="Lines that never match, change nothing, contradict earlier ones or let everything pass; lists that nothing applies"
    />
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <ListCompare />
    <template v-if="findings">
      <KindChoice v-model="kind" label="Kinds" :all="`all ${findings.length}`" :kinds="kinds" />
      <section v-if="shown.length > 0" class="panel">
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">Device</th>
              <th scope="col">List</th>
              <th scope="col">Kind</th>
              <th scope="col">What is odd</th>
              <th scope="col">Lines</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, i) in shown" :key="i">
              <td class="kind">{{ one.device }}</td>
              <td class="mono">{{ one.list }}</td>
              <td class="kind">{{ title(one.kind) }}</td>
              <td class="words">
                {{ one.words
                }}<ClassList
                  v-if="one.packets && one.kind !== 'open'"
                  :classes="one.packets.classes"
                  :whole="one.packets.whole"
                />
              </td>
              <td><LineLinks :exhibits="one.exhibits" /></td>
            </tr>
          </tbody>
        </table>
      </section>
      <p v-else class="quiet">Nothing is odd about the lists of this snapshot.</p>
    </template>
  </div>
</template>

<style scoped>
.mono {
  font-family: var(--mono);
  font-size: 12.5px;
  white-space: nowrap;
}
.words {
  overflow-wrap: anywhere;
}
.kind {
  white-space: nowrap;
}
td {
  vertical-align: top;
}
</style>
