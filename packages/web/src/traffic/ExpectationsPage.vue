<script setup lang="ts">
import { useUnsaved } from '../shared/unsaved.ts'
import { type ExpectationView, setTrafficFile, listExpectations } from '@jurybox/api/traffic'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import SeverityNotches from '../shared/SeverityNotches.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'
import { t } from '../messages/index.ts'
import { useConfirm } from '../stores/confirm.ts'
import ExpectationDetail from './ExpectationDetail.vue'
import ExpectationForm from './ExpectationForm.vue'
import {
  BLANK,
  MUSTS,
  fieldsOf,
  withExpectation,
  withoutExpectation,
  type ExpectationFields,
} from './expectation-form.ts'
import OutcomeMark from './OutcomeMark.vue'
import TrafficHead from './TrafficHead.vue'
import { useQuery } from '../shared/query.ts'
import { dayOf } from '../shared/time.ts'

/** What must be true of traffic, and whether it is as of B. */
const engagement = useEngagement()
const confirm = useConfirm()
const route = useRoute()
const router = useRouter()
const {
  data: view,
  problem,
  reading,
  stop,
  load,
  attempt,
} = useQuery(listExpectations, () => (engagement.b ? { query: { snapshot: engagement.b.id } } : null))
const stating = ref<'expectations' | 'links' | null>(null)
const text = ref('')
const wrong = useAttempt(load)

const ORDER = { violated: 0, undecided: 1, met: 2 }
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
  violated: expectations.value.filter(({ outcome }) => outcome === 'violated').length,
  undecided: expectations.value.filter(({ outcome }) => outcome === 'undecided').length,
  met: expectations.value.filter(({ outcome }) => outcome === 'met').length,
}))
const chosen = computed<ExpectationView | null>(
  () => expectations.value.find(({ id }) => id === route.query['expectation']) ?? expectations.value[0] ?? null,
)
const choose = (id: string): void => void router.push({ query: { ...route.query, expectation: id } })

const FIRST_EXPECTATION = `expectations:
  - id: cards-from-outside
    title: Nobody outside reaches the card systems
    from: outside
    to: 10.40.60.0/24
    must: not-arrive
`
function begin(kind: 'expectations' | 'links'): void {
  stating.value = kind
  text.value = before.value =
    (kind === 'links' ? view.value?.links : view.value?.text) ||
    (kind === 'links' ? 'links:\n  - between: [DEVICE:PORT, DEVICE:PORT]\n' : FIRST_EXPECTATION)
}
/* By form: a new one, perhaps of an answer, or one that is changed */
const form = ref<{ fields: ExpectationFields; replaces: string | null } | null>(null)
const add = (fields: Partial<ExpectationFields> = {}): void =>
  void (form.value = { fields: { ...BLANK, ...fields }, replaces: null })
function change(id: string): void {
  const fields = fieldsOf(view.value?.text ?? '', id)
  if (fields) form.value = { fields, replaces: id }
}
// “Save as expectation” of an answer leads here.
watch(
  () => route.query['add'],
  (asked) => {
    if (typeof asked !== 'string' || !engagement.may.writeRules) return
    const { add: _, from, to, only, must, ...rest } = route.query
    add({
      from: [from ?? []].flat().map(String),
      to: [to ?? []].flat().map(String),
      only: String(only ?? ''),
      must: MUSTS.find((one) => one === must) ?? 'arrive',
    })
    void router.replace({ query: rest })
  },
  { immediate: true },
)
/** Ids of the other expectations. */
const takenIds = computed(() =>
  (view.value?.expectations ?? []).map(({ id }) => id).filter((id) => id !== form.value?.replaces),
)
const state = (written: string): Promise<unknown> =>
  call(setTrafficFile, { params: { kind: 'expectations' }, body: { text: written } })
async function save(fields: ExpectationFields): Promise<void> {
  const { replaces } = form.value ?? { replaces: null }
  const isDone = await wrong.attempt(async () => state(withExpectation(view.value?.text ?? '', fields, replaces)))
  if (!isDone) return
  form.value = null
  choose(fields.id)
}
const remove = (one: ExpectationView): void =>
  void confirm.deletion(t('traffic.kindExpectation'), one.title, () =>
    wrong.attempt(async () => state(withoutExpectation(view.value?.text ?? '', one.id))),
  )

/** The text as it was when its editing began. */
const before = ref('')
useUnsaved(() => stating.value !== null && text.value !== before.value)

async function keep(): Promise<void> {
  if (
    await wrong.attempt(() =>
      call(setTrafficFile, { params: { kind: stating.value ?? '' }, body: { text: text.value } }),
    )
  )
    stating.value = null
}
</script>

<template>
  <div class="page">
    <TrafficHead :note="$t('traffic.statementsAboutTrafficCheckedFor')">
      <div v-if="engagement.may.writeRules && !stating && !form" class="acts">
        <v-btn variant="text" @click="begin('links')">{{ $t('traffic.links') }}</v-btn><v-btn
          variant="text"
          @click="begin('expectations')"
          >{{ $t('traffic.editAsYaml') }}</v-btn
        ><v-btn variant="flat" @click="add()">{{ $t('traffic.addExpectation') }}</v-btn>
      </div>
    </TrafficHead>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <form v-if="stating" class="panel block" @submit.prevent="keep">
      <p class="quiet">
        {{
          $t('traffic.yaml', {
            stating:
              stating === 'links'
                ? $t('traffic.linksThatNeighbourTablesDo')
                : $t('traffic.sourceDestinationHeadersPcapFilter'),
          })
        }}
      </p>
      <v-textarea
        v-model="text"
        :label="stating === 'links' ? $t('traffic.links') : $t('traffic.expectations')"
        rows="14"
        spellcheck="false"
        class="code"
      />
      <ProblemNote :text="wrong.problem.value" />
      <div>
        <v-btn type="submit" variant="flat">{{ $t('traffic.saveAndCheck') }}</v-btn>
        <v-btn variant="text" @click="stating = null">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
    <ExpectationForm
      v-else-if="form"
      :key="form.replaces ?? ''"
      :start="form.fields"
      :is-new="form.replaces === null"
      :taken="takenIds"
      :problem="wrong.problem.value"
      @save="save"
      @cancel="form = null"
    />
    <EmptyPage
      v-else-if="view && expectations.length === 0"
      :title="$t('traffic.noExpectationsYet')"
      :text="$t('traffic.anExpectationStatesWhichTraffic')"
    >
      <v-btn v-if="engagement.may.writeRules" variant="flat" @click="add()">{{ $t('traffic.addExpectation') }}</v-btn>
    </EmptyPage>
    <div v-else-if="view" class="split">
      <section class="panel list" :aria-label="$t('traffic.expectations')">
        <p class="sum">
          <b data-count="violated">{{ counts.violated }}</b> {{ $t('traffic.violated') }}
          <b data-count="undecided">{{ counts.undecided }}</b> {{ $t('traffic.undecided') }}
          <b data-count="met">{{ counts.met }}</b> {{ $t('traffic.met') }}
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
                ><OutcomeMark :outcome="one.outcome" /><SeverityNotches :severity="one.severity" /></span
              >{{ ' ' }} <b>{{ one.title }}</b>{{ ' '
              }}<span v-if="one.waived" class="quiet">{{
                $t('traffic.waivedUntilMark', { expires: dayOf(one.waived.expires) })
              }}</span
              >{{ ' ' }} <span class="quiet">{{ one.from.join(', ') }} → {{ one.to.join(', ') }}: {{ one.must }}</span
              >{{ ' ' }}
              <span class="quiet"
                >{{ $t('traffic.since', { since: one.since.title }) }} <AgeText :at="one.since.takenAt"
              /></span>
            </button>
          </li>
        </ul>
      </section>
      <ExpectationDetail
        v-if="chosen"
        :key="chosen.id"
        :expectation="chosen"
        @changed="attempt(load)"
        @edit="change(chosen.id)"
        @remove="remove(chosen)"
      />
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
