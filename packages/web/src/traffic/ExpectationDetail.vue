<script setup lang="ts">
import { type ExpectationView, confirmExpectation } from '@jurybox/api/traffic'
import { EXPECTATIONS } from '@jurybox/core/audit'
import { computed, ref } from 'vue'
import { call } from '../api/client.ts'
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
import { dayOf } from '../shared/time.ts'
import { useFrameworks } from '../stores/frameworks.ts'

/** One expectation with its answer: the packets, one of them, its path, and the lines that decide. */
const props = defineProps<{ expectation: ExpectationView }>()
const emit = defineEmits<{ changed: []; edit: []; remove: [] }>()
const engagement = useEngagement()
const frameworks = useFrameworks()
void frameworks.load()
const { problem, attempt } = useAttempt()
async function confirm(): Promise<void> {
  if (await attempt(() => call(confirmExpectation, { params: { expectation: props.expectation.id } }))) emit('changed')
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
      <span v-if="engagement.may.writeRules" class="acts">
        <v-btn size="small" variant="text" @click="emit('edit')">{{ $t('common.edit') }}</v-btn>
        <v-btn size="small" variant="text" @click="emit('remove')">{{ $t('common.delete') }}</v-btn>
      </span>
    </header>
    <dl>
      <dt>{{ $t('common.from') }}</dt>
      <dd>{{ expectation.from.join(', ') }}</dd>
      <dt>{{ $t('traffic.to') }}</dt>
      <dd>{{ expectation.to.join(', ') }}</dd>
      <dt>{{ $t('traffic.packets') }}</dt>
      <dd>
        <code>{{ expectation.only ?? $t('traffic.allPacketsWord') }}</code><span class="quiet"
          >,
          {{
            expectation.packets === 'first' ? $t('traffic.packetsThatOpenAConnection') : $t('traffic.anyFlags')
          }}</span
        >
      </dd>
      <dt>{{ $t('traffic.must') }}</dt>
      <dd>{{ expectation.must }}</dd>
      <template v-if="expectation.references.length > 0"
        ><dt>{{ $t('common.requirements') }}</dt>
        <dd>{{ expectation.references.map(frameworks.nameOf).join(', ') }}</dd></template
      >
    </dl>
    <p class="answer">
      <b>{{ expectation.outcome }}</b>: {{ expectation.words }}.
    </p>
    <p v-if="expectation.outcome === 'violated' && !expectation.everHeld" class="quiet doubt">
      {{ $t('traffic.itWasNeverMetIn')
      }}<template v-if="expectation.confirmed">{{ $t('traffic.confirmedSoViolationsRaiseAlerts') }}</template
      ><template v-else
        >{{ $t('traffic.itMayBeAMistake') }}
        <v-btn v-if="engagement.may.writeRules" size="small" @click="confirm">{{
          $t('traffic.confirmExpectation')
        }}</v-btn></template
      >
    </p>
    <p v-if="expectation.waived" class="borne">
      <b>{{ $t('traffic.waivedUntil', { expires: dayOf(expectation.waived.expires) }) }}</b>:
      {{ expectation.waived.reason }}
      <span class="quiet">{{ $t('traffic.riskOwner', { owner: expectation.waived.owner }) }}</span>{{ ' ' }}
      <router-link :to="`/e/${engagement.id}/verdicts?view=waivers`">{{ $t('traffic.allWaivers') }}</router-link>
    </p>
    <p v-else-if="engagement.may.waive && expectation.outcome !== 'met'">
      <v-btn size="small" @click="waiving = true">{{ $t('traffic.waive') }}</v-btn>
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
      <li v-for="one in expectation.missing" :key="one">{{ $t('traffic.missing', { n: one }) }}</li>
    </ul>
    <template v-if="expectation.of">
      <h3>
        {{ expectation.outcome === 'violated' ? $t('traffic.packetsThatViolateIt') : $t('traffic.undecidedPackets') }}
      </h3>
      <ClassList :classes="expectation.of.classes" :whole="expectation.of.whole" />
      <p class="quiet">{{ $t('traffic.headers', { count: countWords(expectation.of.count) }) }}</p>
    </template>
    <PathMap
      v-if="expectation.picture && expectation.picture.links.length > 0"
      :picture="expectation.picture"
      class="map"
    />
    <template v-if="expectation.exhibits.length > 0"
      ><h3>{{ $t('common.evidence') }}</h3>
      <LineLinks :exhibits="expectation.exhibits"
    /></template>
    <template v-if="expectation.example">
      <h3>{{ $t('traffic.example') }}</h3>
      <p>
        <code>{{ packetWords(expectation.example.packet) }}</code>{{ ' ' }}
        <span class="quiet">{{
          $t('traffic.atExpectation', {
            at: expectation.example.at,
            expectation: expectation.example.port ? ` ${expectation.example.port}` : '',
          })
        }}</span>
      </p>
      <TraceRows :trace="expectation.example.trace" />
    </template>
    <p class="onward">
      <router-link :to="askAgain">{{ $t('traffic.showAllFates') }}</router-link>{{ ' '
      }}<router-link v-if="traceIt" :to="traceIt">{{ $t('traffic.traceASimilarPacket') }}</router-link>
    </p>
  </article>
</template>

<style scoped>
.acts {
  margin-left: auto;
}
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
