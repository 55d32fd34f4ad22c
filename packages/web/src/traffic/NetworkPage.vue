<script setup lang="ts">
import { listNetworkFindings } from '@jurybox/api/traffic'
import { computed, ref } from 'vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import ClassList from './ClassList.vue'
import KindChoice from './KindChoice.vue'
import LineLinks from './LineLinks.vue'
import OutsidePorts from './OutsidePorts.vue'
import TraceRows from './TraceRows.vue'
import TrafficHead from './TrafficHead.vue'
import { useEngagement } from '../stores/engagement.ts'
import { useQuery } from '../shared/query.ts'
import { packetWords } from './packet-words.ts'
import { firstOf } from '../shared/words.ts'

/** What is odd about how the devices of the estate fit together. */
const engagement = useEngagement()
const {
  data: findings,
  problem,
  reading,
  stop,
  load,
  attempt,
} = useQuery(listNetworkFindings, () => (engagement.b ? { query: { snapshot: engagement.b.id } } : null))
const kind = ref('')
const kinds = computed(() =>
  [...new Map((findings.value ?? []).map((one) => [one.kind, one.title]))].map(([id, title]) => ({
    id,
    title,
    count: (findings.value ?? []).filter((one) => one.kind === id).length,
  })),
)
const shown = computed(() => (findings.value ?? []).filter((one) => kind.value === '' || one.kind === kind.value))
</script>

<template>
  <div class="page">
    <TrafficHead :note="$t('traffic.routingLoopsUnknownNextHops')" />
    <OutsidePorts @changed="attempt(load)" />
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <template v-if="findings">
      <KindChoice v-model="kind" :label="$t('traffic.types')" :all="`all ${findings.length}`" :kinds="kinds" />
      <article v-for="(one, i) in shown" :key="i" class="panel finding" :aria-label="one.words">
        <header>
          <h2>{{ one.words }}</h2>
          <span class="quiet">{{ one.title }}</span>
        </header>
        <LineLinks :exhibits="one.exhibits" />
        <template v-if="one.packets">
          <p>
            <span class="quiet">{{ $t('traffic.connectionsFrom') }}</span> {{ firstOf(one.from, 6)
            }}<span class="quiet">{{ $t('traffic.ofThem') }}</span>
          </p>
          <ClassList :classes="one.packets.classes" :whole="one.packets.whole" />
        </template>
        <details v-if="one.example">
          <summary>
            {{ $t('traffic.exampleIntro') }} <code>{{ packetWords(one.example.packet) }}</code>
            {{ $t('traffic.atPort', { at: one.example.at, port: one.example.port }) }}
          </summary>
          <TraceRows :trace="one.example.trace" />
        </details>
      </article>
      <p v-if="shown.length === 0" class="quiet">{{ $t('traffic.noFindingsBetweenDevices') }}</p>
    </template>
  </div>
</template>

<style scoped>
.finding {
  padding: 10px 16px 12px;
  margin-bottom: 10px;
  display: grid;
  gap: 4px;
}
header {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 4px 18px;
  align-items: baseline;
}
h2 {
  font-size: 15px;
  overflow-wrap: anywhere;
}
header .quiet {
  white-space: nowrap;
}
code {
  font-family: var(--mono);
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
summary {
  cursor: pointer;
  min-height: 24px;
}
</style>
