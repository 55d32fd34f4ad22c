<script setup lang="ts">
import { EXPECTATIONS } from '@jurybox/core/audit'
import { computed, ref } from 'vue'
import type { ExpectationView } from '../api/traffic-types.ts'
import { api } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'
import ClassList from './ClassList.vue'
import WaiveDialog from '../verdicts/WaiveDialog.vue'
import LineLinks from './LineLinks.vue'
import OutcomeMark from './OutcomeMark.vue'
import PathMap from './PathMap.vue'
import TraceRows from './TraceRows.vue'
import { countWords, packetWords, traceQuery } from './packet-words.ts'

/** One expectation with its answer: the packets, one of them, its path, and the lines that decide. */
const props = defineProps<{ expectation: ExpectationView }>()
const emit = defineEmits<{ changed: [] }>()
const engagement = useEngagement()
const { problem, attempt } = useAttempt()
async function confirm(): Promise<void> {
  if (await attempt(() => api.post(`${engagement.base}/traffic/expectations/${props.expectation.id}/confirm`, {})))
    emit('changed')
}
const waiving = ref(false)
const askAgain = computed(() => ({
  path: `/e/${engagement.id}/traffic/ask`,
  query: {
    from: props.expectation.from[0],
    to: props.expectation.to[0],
    ...(props.expectation.only === null ? {} : { only: props.expectation.only }),
  },
}))
const traceIt = computed(() => {
  const { example } = props.expectation
  return (
    example && {
      path: `/e/${engagement.id}/traffic/ask`,
      query: traceQuery(example.port === null ? example.at : `${example.at}:${example.port}`, example.packet),
    }
  )
})
</script>

<template>
  <article class="panel detail" :aria-label="expectation.title">
    <header>
      <h2>{{ expectation.title }}</h2>
      <OutcomeMark :outcome="expectation.outcome" />
    </header>
    <dl>
      <dt>From</dt>
      <dd>{{ expectation.from.join(', ') }}</dd>
      <dt>To</dt>
      <dd>{{ expectation.to.join(', ') }}</dd>
      <dt>Which</dt>
      <dd>
        <code>{{ expectation.only ?? 'every header' }}</code><span class="quiet"
          >, {{ expectation.packets === 'first' ? 'packets that begin a connection' : 'whatever their flags' }}</span
        >
      </dd>
      <dt>Must</dt>
      <dd>{{ expectation.must }}</dd>
      <template v-if="expectation.references.length > 0"
        ><dt>Evidence for</dt>
        <dd>{{ expectation.references.join(', ') }}</dd></template
      >
    </dl>
    <p class="answer">
      <b>{{ expectation.outcome }}</b>: {{ expectation.words }}.
    </p>
    <p v-if="expectation.outcome === 'broken' && !expectation.everHeld" class="quiet doubt">
      It did not hold in any snapshot that was looked at<template v-if="expectation.confirmed"
        >; it is meant all the same, and its being broken is told.</template
      ><template v-else
        >: it may be mistaken, and nobody is told that it is broken.
        <v-btn v-if="engagement.may.writeRules" size="small" @click="confirm">It is meant</v-btn></template
      >
    </p>
    <p v-if="expectation.waived" class="borne">
      <b>Waived until {{ expectation.waived.expires.slice(0, 10) }}</b
      >: {{ expectation.waived.reason }} <span class="quiet">Borne by {{ expectation.waived.owner }}.</span>{{ ' ' }}
      <router-link :to="`/e/${engagement.id}/verdicts?view=waivers`">All waivers</router-link>
    </p>
    <p v-else-if="engagement.may.waive && expectation.outcome !== 'holds'">
      <v-btn size="small" @click="waiving = true">Waive…</v-btn>
    </p>
    <WaiveDialog
      v-if="waiving"
      v-model="waiving"
      :verdict="{ benchmark: EXPECTATIONS, rule: expectation.id, device: '', subjects: [] }"
      :audit-id="null"
      @waived="emit('changed')"
    />
    <ProblemNote :text="problem" />
    <ul v-if="expectation.missing.length > 0" class="missing">
      <li v-for="one in expectation.missing" :key="one">Missing: {{ one }}</li>
    </ul>
    <template v-if="expectation.of">
      <h3>
        {{ expectation.outcome === 'broken' ? 'Packets for which it is broken' : 'Packets of which it is not known' }}
      </h3>
      <ClassList :classes="expectation.of.classes" :whole="expectation.of.whole" />
      <p class="quiet">{{ countWords(expectation.of.count) }} headers</p>
    </template>
    <PathMap
      v-if="expectation.picture && expectation.picture.links.length > 0"
      :picture="expectation.picture"
      class="map"
    />
    <template v-if="expectation.exhibits.length > 0"
      ><h3>Lines that decide</h3>
      <LineLinks :exhibits="expectation.exhibits"
    /></template>
    <template v-if="expectation.example">
      <h3>One of them</h3>
      <p>
        <code>{{ packetWords(expectation.example.packet) }}</code>
        <span class="quiet"
          >at {{ expectation.example.at }}{{ expectation.example.port ? ` ${expectation.example.port}` : '' }}</span
        >
      </p>
      <TraceRows :trace="expectation.example.trace" />
    </template>
    <p class="onward">
      <router-link :to="askAgain">Ask for every fate</router-link
      ><router-link v-if="traceIt" :to="traceIt">Trace another packet like this</router-link>
    </p>
  </article>
</template>

<style scoped>
.detail {
  padding: 14px 18px 16px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 14px;
  flex-wrap: wrap;
}
dl {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 2px 14px;
  margin: 8px 0;
}
dt {
  color: rgb(var(--v-theme-quiet));
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
h3 {
  font-size: 14px;
  margin: 14px 0 4px;
}
.map {
  margin-top: 12px;
}
.borne {
  padding: 8px 14px;
  margin-top: 8px;
  border-left: 3px dashed rgb(var(--v-theme-waived));
}
.answer {
  margin: 10px 0 4px;
  overflow-wrap: anywhere;
}
code {
  font-family: var(--mono);
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
.missing {
  padding-left: 18px;
  margin: 2px 0;
}
.onward {
  display: flex;
  gap: 18px;
  margin-top: 14px;
}
</style>
