<script setup lang="ts">
import { useConfirm } from '../stores/confirm.ts'
import { t } from '../messages/index.ts'
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { getBenchmark } from '@jurybox/api/benchmarks'
import { getReferenceRule } from '@jurybox/api/references'
import { call, wordsOf } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { saveFile } from '../shared/files.ts'
import { usePageKeys } from '../shared/keys.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useRuleBench } from '../stores/rule-bench.ts'
import { useToasts } from '../stores/toasts.ts'
import CiteLines from './CiteLines.vue'
import RuleForm from './RuleForm.vue'
import RuleWords from './RuleWords.vue'
import TrialAnswers from './TrialAnswers.vue'
import VersionList from './VersionList.vue'
import YamlEditor from './YamlEditor.vue'
import { copiedRule } from './copied-rule.ts'

const confirm = useConfirm()

/**
 * One rule in hand: as words, as a form or as YAML on one side; on the other what the devices answer, and lines to
 * cite.
 */
const bench = useRuleBench()
const engagement = useEngagement()
const toasts = useToasts()
const route = useRoute()
const router = useRouter()
function chosenIn<T extends string>(name: string, [first, ...others]: readonly [T, ...T[]]) {
  return computed<T>({
    get: () => others.find((one) => one === route.query[name]) ?? first,
    set: (one) => void router.push({ query: { ...route.query, [name]: one === first ? undefined : one } }),
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
/** A rule of another benchmark that the address asks to be copied, as `BENCHMARK:RULE`. */
async function copyAsked(): Promise<void> {
  const [benchmark = '', id = ''] = String(route.query['copy'] ?? '').split(':')
  if (id === '') return
  const { copy: _, ...rest } = route.query
  await router.replace({ query: { ...rest, view: 'form' } })
  const draft = copiedRule(await call(getBenchmark, { params: { benchmark } }), id)
  if (!draft) {
    problem.value = t('rules.noSuchRule', { benchmark, id })
    return
  }
  bench.add(draft)
  toasts.show(t('rules.ruleCopied', { title: String(draft.rule['title']) }))
}
/** A reference that the address asks to be made a rule. */
async function referenceAsked(): Promise<void> {
  const { reference, ...rest } = route.query
  if (typeof reference !== 'string' || reference === '') return
  await router.replace({ query: { ...rest, view: 'yaml' } })
  const draft = await call(getReferenceRule, { params: { reference } })
  bench.add(draft)
  toasts.show(t('rules.ruleAdded', { title: String(draft.rule['title']) }))
}
onMounted(async () => {
  try {
    await bench.open()
    await copyAsked()
    await referenceAsked()
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
  const name = `${String(bench.parsed.data?.['id'] ?? 'benchmark')}.yaml`
  saveFile(name, new Blob([bench.text], { type: 'application/yaml' }))
}
usePageKeys([
  { key: '1', does: t('rules.ruleInWords'), run: () => (view.value = 'words') },
  { key: '2', does: t('rules.ruleAsAForm'), run: () => (view.value = 'form') },
  { key: '3', does: t('rules.ruleAsYaml'), run: () => (view.value = 'yaml') },
])
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>{{ $t('rules.ruleEditor') }}</h1>
        <p class="quiet">
          {{
            engagement.b
              ? $t('rules.everyChangeIsTriedOn', {
                  bench: bench.parsed.data?.['title'] ?? $t('rules.ownRules'),
                  title: engagement.b.title,
                })
              : $t('rules.noSnapshotToTry', { bench: bench.parsed.data?.['title'] ?? $t('rules.ownRules') })
          }}
        </p>
      </div>
      <label class="file"
        ><input type="file" accept=".yaml,.yml" class="sr" @change="bringIn" /><span>{{
          $t('rules.importYaml')
        }}</span></label
      >
      <v-btn @click="takeOut">{{ $t('rules.exportYaml') }}</v-btn>
    </div>
    <ProblemNote :text="problem" />
    <div class="bench">
      <section :aria-label="$t('common.rule')">
        <div class="bar">
          <v-select
            :model-value="bench.ruleId"
            :items="rules"
            :label="$t('rules.currentRule')"
            class="which"
            @update:model-value="bench.chosen = $event"
          />
          <v-btn-toggle
            v-model="view"
            mandatory
            density="compact"
            variant="outlined"
            color="primary"
            :aria-label="$t('common.view')"
            ><v-btn value="words" size="small">{{ $t('rules.words') }}</v-btn
            ><v-btn value="form" size="small">{{ $t('rules.form') }}</v-btn
            ><v-btn value="yaml" size="small">YAML</v-btn></v-btn-toggle
          >
        </div>
        <p v-if="bench.parsed.broken && view !== 'yaml'" role="alert" class="broken">
          {{ $t('rules.theTextIsNotValid', { broken: bench.parsed.broken }) }}
        </p>
        <template v-else-if="bench.rule || view === 'yaml'">
          <RuleWords v-if="view === 'words'" @form="view = 'form'" />
          <RuleForm v-else-if="view === 'form'" :key="bench.ruleId" />
          <div v-else class="yaml">
            <YamlEditor
              ref="editor"
              v-model="bench.text"
              :problems="bench.problems"
              :label="$t('rules.benchmarkAsYaml')"
            />
          </div>
        </template>
        <p v-else class="quiet">{{ $t('rules.noRuleYetCiteLines') }}</p>
        <v-btn
          v-if="bench.ruleIds.length > 1 && view !== 'yaml'"
          size="small"
          variant="text"
          class="drop"
          @click="confirm.deletion($t('rules.kindRule'), bench.ruleId, () => bench.remove())"
          >{{ $t('rules.deleteRule') }}</v-btn
        >
      </section>
      <section :aria-label="$t('rules.devicesAndRecords')">
        <div class="bar">
          <v-btn-toggle
            v-model="beside"
            mandatory
            density="compact"
            variant="outlined"
            color="primary"
            :aria-label="$t('rules.panelsBesideTheRule')"
            ><v-btn value="answers" size="small">{{ $t('rules.results') }}</v-btn
            ><v-btn value="lines" size="small">{{ $t('rules.citeLines') }}</v-btn
            ><v-btn value="versions" size="small">{{ $t('rules.versions') }}</v-btn></v-btn-toggle
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
  height: max(300px, 100vh - 270px);
}
@media (max-width: 900px) {
  .bench {
    grid-template-columns: minmax(0, 1fr);
  }
  .bar {
    flex-wrap: wrap;
  }
  .which {
    flex: 1 0 200px;
  }
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
