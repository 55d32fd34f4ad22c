<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api } from '../api/client.ts'
import type { ExpectationView, TrafficView } from '../api/traffic-types.ts'
import AgeText from '../shared/AgeText.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'
import ExpectationDetail from './ExpectationDetail.vue'
import OutcomeMark from './OutcomeMark.vue'
import TrafficHead from './TrafficHead.vue'
import { useAsOfB } from './as-of-b.ts'

/** What must be true of traffic, and whether it is as of B. */
const engagement = useEngagement()
const route = useRoute()
const router = useRouter()
const { found: view, problem, reading, stop, load, attempt } = useAsOfB<TrafficView>('')
const stating = ref<'expectations' | 'links' | null>(null)
const text = ref('')
const wrong = useAttempt(load)

const ORDER = { broken: 0, undecided: 1, holds: 2 }
const WEIGHT = ['high', 'medium', 'low', 'info']
const expectations = computed(() =>
  [...(view.value?.expectations ?? [])].sort(
    (a, b) =>
      ORDER[a.outcome] - ORDER[b.outcome] ||
      WEIGHT.indexOf(a.severity) - WEIGHT.indexOf(b.severity) ||
      a.title.localeCompare(b.title),
  ),
)
const counts = computed(() => ({
  broken: expectations.value.filter(({ outcome }) => outcome === 'broken').length,
  undecided: expectations.value.filter(({ outcome }) => outcome === 'undecided').length,
  holds: expectations.value.filter(({ outcome }) => outcome === 'holds').length,
}))
const chosen = computed<ExpectationView | null>(
  () => expectations.value.find(({ id }) => id === route.query['expectation']) ?? expectations.value[0] ?? null,
)
const choose = (id: string): void => void router.replace({ query: { ...route.query, expectation: id } })

function begin(kind: 'expectations' | 'links'): void {
  stating.value = kind
  text.value =
    (kind === 'links' ? view.value?.links : view.value?.text) ||
    (kind === 'links'
      ? 'links:\n  - between: [DEVICE:PORT, DEVICE:PORT]\n'
      : 'expectations:\n  - id: cards-from-outside\n    title: Nobody outside reaches the card systems\n    from: outside\n    to: 10.40.60.0/24\n    must: not-arrive\n')
}
async function keep(): Promise<void> {
  if (await wrong.attempt(() => api.put(`${engagement.base}/traffic/${stating.value ?? ''}`, { text: text.value })))
    stating.value = null
}
</script>

<template>
  <div class="page">
    <TrafficHead note="What must be true of every packet, not of a sample; answered as of B">
      <div v-if="engagement.may.writeRules && !stating" class="acts">
        <v-btn variant="text" @click="begin('links')">Links</v-btn
        ><v-btn variant="flat" @click="begin('expectations')">State expectations</v-btn>
      </div>
    </TrafficHead>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <form v-if="stating" class="panel block" @submit.prevent="keep">
      <p class="quiet">
        {{
          stating === 'links'
            ? 'Links that tables of neighbours do not tell of, and protection below them that a person attests.'
            : 'From where, to where, which headers (as pcap-filter writes them), and what must hold.'
        }}
        YAML.
      </p>
      <v-textarea
        v-model="text"
        :label="stating === 'links' ? 'Links' : 'Expectations'"
        rows="14"
        spellcheck="false"
        class="code"
      />
      <ProblemNote :text="wrong.problem.value" />
      <div>
        <v-btn type="submit" variant="flat">Keep and answer</v-btn>
        <v-btn variant="text" @click="stating = null">Leave</v-btn>
      </div>
    </form>
    <EmptyPage
      v-else-if="view && expectations.length === 0"
      title="Nothing is expected yet"
      text="An expectation says what must arrive, must not, must pass a firewall or must be protected on its way. It is answered for every packet, with the lines that decide."
    >
      <v-btn v-if="engagement.may.writeRules" variant="flat" @click="begin('expectations')">State expectations</v-btn>
    </EmptyPage>
    <div v-else-if="view" class="split">
      <section class="panel list" aria-label="Expectations">
        <p class="sum">
          <b data-count="broken">{{ counts.broken }}</b> broken,
          <b data-count="undecided">{{ counts.undecided }}</b> undecided,
          <b data-count="holds">{{ counts.holds }}</b> hold
        </p>
        <ul>
          <li v-for="one in expectations" :key="one.id">
            <button
              type="button"
              class="one"
              :class="{ here: chosen?.id === one.id }"
              :aria-current="chosen?.id === one.id"
              @click="choose(one.id)"
            >
              <span class="line"
                ><OutcomeMark :outcome="one.outcome" /><SeverityNotches :severity="one.severity"
              /></span>
              <b>{{ one.title }}</b><span v-if="one.waived" class="quiet"
                >waived until {{ one.waived.expires.slice(0, 10) }}</span
              >
              <span class="quiet">{{ one.from.join(', ') }} → {{ one.to.join(', ') }}: {{ one.must }}</span>
              <span class="quiet">so since {{ one.since.title }}, <AgeText :at="one.since.takenAt" /></span>
            </button>
          </li>
        </ul>
      </section>
      <ExpectationDetail v-if="chosen" :key="chosen.id" :expectation="chosen" @changed="attempt(load)" />
    </div>
  </div>
</template>

<style scoped>
.acts {
  display: flex;
  gap: 6px;
  white-space: nowrap;
}
.block {
  padding: 12px 16px;
  margin-bottom: 14px;
  display: grid;
  gap: 10px;
}
.code :deep(textarea) {
  font-family: var(--mono);
  font-size: 12.5px;
}
.split {
  display: grid;
  grid-template-columns: minmax(200px, 250px) minmax(0, 1fr);
  gap: 14px;
  align-items: start;
}
@media (max-width: 900px) {
  .split {
    grid-template-columns: minmax(0, 1fr);
  }
}
.sum {
  padding: 10px 14px;
  border-bottom: var(--hair);
}
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
li + li {
  border-top: var(--hair);
}
.one {
  display: grid;
  gap: 2px;
  width: 100%;
  padding: 9px 14px 10px 11px;
  text-align: left;
  font: inherit;
  color: inherit;
  cursor: pointer;
  border-left: 3px solid transparent;
  overflow-wrap: anywhere;
}
.one:hover {
  background: rgb(var(--v-theme-background));
}
.here {
  border-left-color: rgb(var(--v-theme-primary));
}
.line {
  display: flex;
  justify-content: space-between;
  gap: 10px;
}
</style>
