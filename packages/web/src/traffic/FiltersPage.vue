<script setup lang="ts">
import { listFilterFindings } from '@jurybox/api/traffic'
import { computed, ref } from 'vue'
import { FINDING_WORDS, type FilterFindingKind } from '@jurybox/core/forwarding'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import ClassList from './ClassList.vue'
import ListCompare from './ListCompare.vue'
import KindChoice from './KindChoice.vue'
import LineLinks from './LineLinks.vue'
import TrafficHead from './TrafficHead.vue'
import { useEngagement } from '../stores/engagement.ts'
import { useQuery } from '../shared/query.ts'

/** What is odd about the lines of access lists, by exact sets of headers. */
const engagement = useEngagement()
const {
  data: findings,
  problem,
  reading,
  stop,
} = useQuery(listFilterFindings, () => (engagement.b ? { query: { snapshot: engagement.b.id } } : null))
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
    <TrafficHead :note="$t('traffic.accessListEntriesThatAre')" />
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <ListCompare />
    <template v-if="findings">
      <KindChoice v-model="kind" :label="$t('traffic.types')" :all="`all ${findings.length}`" :kinds="kinds" />
      <section v-if="shown.length > 0" class="panel">
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">{{ $t('common.device') }}</th>
              <th scope="col">{{ $t('traffic.accessList') }}</th>
              <th scope="col">{{ $t('common.type') }}</th>
              <th scope="col">{{ $t('traffic.finding') }}</th>
              <th scope="col">{{ $t('common.lines') }}</th>
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
      <p v-else class="quiet">{{ $t('traffic.noFindingsInAccessLists') }}</p>
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
