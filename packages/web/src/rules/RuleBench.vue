<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { wordsOf } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { usePageKeys } from '../shared/keys.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useRuleBench } from '../stores/rule-bench.ts'
import CiteLines from './CiteLines.vue'
import RuleForm from './RuleForm.vue'
import RuleWords from './RuleWords.vue'
import TrialAnswers from './TrialAnswers.vue'
import VersionList from './VersionList.vue'
import YamlEditor from './YamlEditor.vue'

/**
 * One rule in hand: as words, as a form or as YAML on one side; on the other what the devices answer, and lines to
 * cite.
 */
const bench = useRuleBench()
const engagement = useEngagement()
const route = useRoute()
const router = useRouter()
function chosenIn<T extends string>(name: string, [first, ...others]: readonly [T, ...T[]]) {
  return computed<T>({
    get: () => others.find((one) => one === route.query[name]) ?? first,
    set: (one) => void router.replace({ query: { ...route.query, [name]: one === first ? undefined : one } }),
  })
}
const view = chosenIn('view', ['words', 'form', 'yaml'])
const beside = chosenIn('beside', ['answers', 'lines', 'versions'])
const problem = ref('')
const editor = ref<InstanceType<typeof YamlEditor> | null>(null)
const rules = computed(() => bench.ruleIds.map((id, i) => ({ value: id, title: titleOf(i) ?? id })))
function titleOf(i: number): string | undefined {
  const all: unknown = bench.parsed.data?.['rules']
  const title: unknown = Array.isArray(all) ? (all[i] as { title?: unknown } | null)?.title : undefined
  return typeof title === 'string' ? title : undefined
}
onMounted(async () => {
  try {
    await bench.open()
  } catch (error) {
    problem.value = wordsOf(error)
  }
})
watch([view, () => bench.chosen], async () => {
  await nextTick()
  if (view.value === 'yaml') editor.value?.goTo(bench.line)
})
async function bringIn(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  bench.text = await file.text()
  // What an import changes is shown before anything of it is saved.
  beside.value = 'versions'
  input.value = ''
}
function takeOut(): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([bench.text], { type: 'application/yaml' }))
  link.download = `${String(bench.parsed.data?.['id'] ?? 'benchmark')}.yaml`
  link.click()
  URL.revokeObjectURL(link.href)
}
usePageKeys([
  { key: '1', does: 'The rule as words', run: () => (view.value = 'words') },
  { key: '2', does: 'The rule as a form', run: () => (view.value = 'form') },
  { key: '3', does: 'The rule as YAML', run: () => (view.value = 'yaml') },
])
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>Rule bench</h1>
        <p class="quiet">
          {{ bench.parsed.data?.['title'] ?? 'Own rules' }}. Every change is put to the devices of “{{
            engagement.b?.title
          }}” at once; nothing is kept before it is saved.
        </p>
      </div>
      <label class="file"
        ><input type="file" accept=".yaml,.yml" class="sr" @change="bringIn" /><span>Bring in YAML</span></label
      >
      <v-btn @click="takeOut">Take out YAML</v-btn>
    </div>
    <ProblemNote :text="problem" />
    <div class="bench">
      <section aria-label="The rule">
        <div class="bar">
          <v-select
            :model-value="bench.ruleId"
            :items="rules"
            label="Rule in hand"
            class="which"
            @update:model-value="bench.chosen = $event"
          />
          <v-btn-toggle
            v-model="view"
            mandatory
            density="compact"
            variant="outlined"
            color="primary"
            aria-label="Shown as"
            ><v-btn value="words" size="small">Words</v-btn><v-btn value="form" size="small">Form</v-btn
            ><v-btn value="yaml" size="small">YAML</v-btn></v-btn-toggle
          >
        </div>
        <p v-if="bench.parsed.broken && view !== 'yaml'" role="alert" class="broken">
          The text is no YAML at the moment ({{ bench.parsed.broken }}). Mend it under YAML.
        </p>
        <template v-else-if="bench.rule || view === 'yaml'">
          <RuleWords v-if="view === 'words'" @form="view = 'form'" />
          <RuleForm v-else-if="view === 'form'" :key="bench.ruleId" />
          <div v-else class="yaml">
            <YamlEditor ref="editor" v-model="bench.text" :problems="bench.problems" label="Benchmark as YAML" />
          </div>
        </template>
        <p v-else class="quiet">There is no rule yet: cite lines, or write one under YAML.</p>
        <v-btn
          v-if="bench.ruleIds.length > 1 && view !== 'yaml'"
          size="small"
          variant="text"
          class="drop"
          @click="bench.remove()"
          >Take this rule out</v-btn
        >
      </section>
      <section aria-label="Devices and records">
        <div class="bar">
          <v-btn-toggle
            v-model="beside"
            mandatory
            density="compact"
            variant="outlined"
            color="primary"
            aria-label="Beside the rule"
            ><v-btn value="answers" size="small">Answers</v-btn><v-btn value="lines" size="small">Cite lines</v-btn
            ><v-btn value="versions" size="small">Versions</v-btn></v-btn-toggle
          >
        </div>
        <TrialAnswers v-if="beside === 'answers'" />
        <CiteLines v-else-if="beside === 'lines'" @made="beside = 'answers'" />
        <VersionList v-else />
      </section>
    </div>
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 20px;
  align-items: start;
}
.bar {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-bottom: 10px;
  min-height: 40px;
}
.which {
  flex: 1;
  min-width: 0;
}
.yaml {
  height: calc(100vh - 270px);
}
.broken {
  color: rgb(var(--v-theme-fail));
}
.drop {
  margin-top: 10px;
}
.file span {
  display: inline-block;
  padding: 3px 14px;
  border: 1px solid rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-primary));
  border-radius: 3px;
  cursor: pointer;
  font-weight: 500;
}
.file:focus-within span {
  outline: 2px solid rgb(var(--v-theme-primary));
  outline-offset: 2px;
}
</style>
