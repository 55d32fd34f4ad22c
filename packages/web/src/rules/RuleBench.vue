<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { Outcome, OwnVersion, TrialView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import VerdictMark from '../shared/VerdictMark.vue'
import { OUTCOMES } from '../shared/outcomes.ts'
import { useEngagement } from '../stores/engagement.ts'
import { STARTER } from './starter.ts'

/** Rules as text on one side; on the other what every device of B answers, as they are written. */
const PAUSE_MS = 500
const engagement = useEngagement()
const text = ref(STARTER)
const trial = ref<TrialView | null>(null)
const wrong = ref('')
const busy = ref(false)
const problem = ref('')
const said = ref('')
const why = ref('')
const versions = ref<OwnVersion[]>([])
const opened = ref('')
const failing = computed(() => (trial.value?.examples ?? []).filter((example) => example.wrong.length > 0))

let timer: ReturnType<typeof setTimeout> | undefined
let asked = 0
watch(
  [text, () => engagement.b?.id],
  () => {
    clearTimeout(timer)
    timer = setTimeout(() => void tryOut(), PAUSE_MS)
  },
  { immediate: true },
)
/** An answer to what has been written over since is not shown. */
async function tryOut(): Promise<void> {
  const turn = ++asked
  busy.value = true
  try {
    const answer = await api.post<TrialView>(`${engagement.base}/own-benchmarks/trial`, { text: text.value, snapshotId: engagement.b?.id ?? null })
    if (turn !== asked) return
    trial.value = answer
    wrong.value = ''
  } catch (error) {
    if (turn === asked) wrong.value = wordsOf(error)
  }
  if (turn === asked) busy.value = false
}
async function loadVersions(): Promise<void> {
  try {
    versions.value = await api.get<OwnVersion[]>(`${engagement.base}/own-benchmarks`)
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(loadVersions)
/** One piece of work with the versions; what goes wrong is told beside them. */
async function working(work: () => Promise<string>): Promise<void> {
  problem.value = ''
  try {
    said.value = await work()
    await loadVersions()
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
const save = () =>
  working(async () => {
    const { benchmark, number } = await api.post<{ benchmark: string; number: number }>(`${engagement.base}/own-benchmarks`, { text: text.value, why: why.value })
    why.value = ''
    return `Saved as version ${number} of ${benchmark}.`
  })
const publish = ({ benchmark, number }: OwnVersion) =>
  working(async () => {
    await api.post(`${engagement.base}/own-benchmarks/${benchmark}/${number}/publish`)
    return `Version ${number} of ${benchmark} is on the shelf.`
  })
const openVersion = ({ benchmark, number }: OwnVersion) =>
  working(async () => {
    text.value = (await api.get<{ text: string }>(`${engagement.base}/own-benchmarks/${benchmark}/${number}`)).text
    return `Version ${number} of ${benchmark} is open.`
  })
async function bringIn(event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) text.value = await file.text()
}
function takeOut(): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text.value], { type: 'application/yaml' }))
  link.download = 'benchmark.yaml'
  link.click()
  URL.revokeObjectURL(link.href)
}
const orderOf = (rule: TrialView['rules'][number]) => rule.devices.toSorted((a, b) => OUTCOMES.indexOf(a.outcome) - OUTCOMES.indexOf(b.outcome))
const countsOf = (rule: TrialView['rules'][number]): [Outcome, number][] => OUTCOMES.map((outcome): [Outcome, number] => [outcome, rule.devices.filter((one) => one.outcome === outcome).length]).filter(([, count]) => count > 0)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow"><h1>Rule bench</h1><p class="quiet">What is written on the left is put to every device of “{{ engagement.b?.title }}” at once. Nothing is kept before it is saved.</p></div>
      <label class="file"><input type="file" accept=".yaml,.yml" class="sr" @change="bringIn" /><span>Bring in YAML</span></label>
      <v-btn @click="takeOut">Take out YAML</v-btn>
    </div>
    <div class="bench">
      <section>
        <h2 id="bench-text">Text</h2>
        <textarea v-model="text" aria-labelledby="bench-text" class="panel mono text" spellcheck="false" rows="26" />
        <div class="save"><v-text-field v-model="why" label="Why it is changed" /><v-btn variant="flat" :disabled="wrong !== '' || failing.length > 0 || why.trim().length < 3" @click="save">Save as a version</v-btn></div>
        <ProblemNote :text="problem" />
        <p role="status" class="quiet">{{ said }}</p>
        <table v-if="versions.length > 0" class="rows panel">
          <thead><tr><th scope="col">Version</th><th scope="col">Why</th><th scope="col">Saved</th><th scope="col"><span class="sr">Actions</span></th></tr></thead>
          <tbody>
            <tr v-for="version in versions" :key="`${version.benchmark} ${version.number}`">
              <td>{{ version.benchmark }} {{ version.number }}</td><td>{{ version.why }}</td><td class="quiet">{{ version.by }}, <AgeText :at="version.createdAt" /></td>
              <td class="acts"><v-btn size="small" variant="text" @click="openVersion(version)">Open</v-btn><router-link v-if="version.publishedAt" :to="`benchmarks/${version.benchmark}`">on the shelf</router-link><v-btn v-else size="small" @click="publish(version)">Publish</v-btn></td>
            </tr>
          </tbody>
        </table>
      </section>

      <section aria-live="polite">
        <h2>Answers <span v-if="busy" class="quiet">…</span></h2>
        <pre v-if="wrong" class="panel wrong">{{ wrong }}</pre>
        <template v-if="trial">
          <p :class="{ stale: wrong !== '' }">
            <template v-if="failing.length === 0">{{ trial.examples.length }} examples hold.</template>
            <template v-else><strong>{{ failing.length }} of {{ trial.examples.length }} examples do not hold.</strong></template>
          </p>
          <ul v-if="failing.length > 0" class="panel fails"><li v-for="example in failing" :key="`${example.rule} ${example.name}`"><strong>{{ example.rule }}, {{ example.name }}</strong>: {{ example.wrong.join('; ') }}</li></ul>
          <div v-for="rule in trial.rules" :key="rule.id" class="panel rule" :class="{ stale: wrong !== '' }">
            <button type="button" class="as-link" :aria-expanded="opened === rule.id" @click="opened = opened === rule.id ? '' : rule.id">{{ rule.title }}</button>
            <div class="counts"><span v-for="[outcome, count] in countsOf(rule)" :key="outcome"><b>{{ count }}</b> <VerdictMark :outcome="outcome" /></span></div>
            <table v-if="opened === rule.id || trial.rules.length === 1" class="rows">
              <tbody>
                <tr v-for="one in orderOf(rule)" :key="one.deviceId">
                  <td><VerdictMark :outcome="one.outcome" :word="false" /></td><td><router-link :to="`estate/${one.deviceId}`">{{ one.device }}</router-link></td>
                  <td>{{ one.note }}<div class="quiet">{{ one.branch }}<span v-if="one.line?.text" class="at">line {{ one.line.from }}: <code>{{ one.line.text }}</code></span></div></td>
                </tr>
              </tbody>
            </table>
            <template v-if="rule.remedy && (opened === rule.id || trial.rules.length === 1)">
              <h3>Remedy on {{ rule.remedy.device }}</h3>
              <pre class="mono">{{ 'words' in rule.remedy.remedy ? rule.remedy.remedy.words : rule.remedy.remedy.commands.join('\n') }}</pre>
            </template>
          </div>
        </template>
      </section>
    </div>
  </div>
</template>

<style scoped>
.bench { display: grid; grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr); gap: 18px; align-items: start; }
.bench h2 { margin-bottom: 6px; }
.text { width: 100%; padding: 10px 12px; font-size: 12.5px; line-height: 1.5; color: inherit; white-space: pre; overflow: auto; resize: vertical; tab-size: 2; }
.save { display: grid; grid-template-columns: 1fr auto; gap: 10px; align-items: center; margin: 8px 0; }
.acts { white-space: nowrap; text-align: right; }
.file span { display: inline-block; padding: 3px 14px; border: 1px solid rgb(var(--v-theme-primary)); color: rgb(var(--v-theme-primary)); border-radius: 3px; cursor: pointer; font-weight: 500; }
.file:focus-within span { outline: 2px solid rgb(var(--v-theme-primary)); outline-offset: 2px; }
.wrong { padding: 10px 14px; white-space: pre-wrap; overflow-wrap: anywhere; border-left: 3px solid rgb(var(--v-theme-fail)); margin: 0 0 8px; }
.fails { margin: 0 0 8px; padding: 8px 12px 8px 28px; }
.rule { padding: 10px 14px; margin-bottom: 8px; }
.rule pre { margin: 4px 0 0; white-space: pre-wrap; overflow-wrap: anywhere; }
.rule h3 { margin: 10px 0 0; }
.counts { display: flex; gap: 16px; flex-wrap: wrap; margin: 4px 0; }
.counts span { display: inline-flex; gap: 6px; align-items: baseline; }
.at { margin-left: 10px; }
.stale { opacity: 0.6; }
</style>
