<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import type { BenchmarkView } from '@jurybox/api/benchmarks'
import { computed, ref } from 'vue'

/** What of published standards is decided here, requirement by requirement, and how. */
const props = defineProps<{ view: BenchmarkView }>()
type Kind = BenchmarkView['coverage'][number]['coverage']
const KINDS: readonly { kind: Kind; words: string; means: string }[] = [
  { kind: 'machine', words: t('benchmarks.automatic'), means: t('benchmarks.rulesDecideIt') },
  { kind: 'partly', words: t('benchmarks.partlyAutomatic'), means: t('benchmarks.rulesDecideAPartOf') },
  { kind: 'person', words: t('benchmarks.byAPerson'), means: t('benchmarks.aPersonAnswersAQuestion') },
  { kind: 'none', words: t('benchmarks.notCovered'), means: t('benchmarks.noRuleQuestionOrExpectation') },
  { kind: 'outside', words: t('benchmarks.outside'), means: t('benchmarks.notAMatterOfThe') },
]
const framework = ref(
  props.view.frameworks.find((one) => one.id.startsWith('pci'))?.id ?? props.view.frameworks[0]?.id ?? '',
)
const only = ref<Kind | ''>('')
const own = computed(() => new Set(props.view.rules.map(({ id }) => id)))
const linesOf = (id: string) => props.view.coverage.filter((line) => line.framework === id)
const countOf = (id: string, kind: Kind): number => linesOf(id).filter((line) => line.coverage === kind).length
const shareOf = (id: string): string =>
  t('common.someOfAll', {
    shown: countOf(id, 'machine') + countOf(id, 'partly') + countOf(id, 'person'),
    all: linesOf(id).length,
  })
/** Parts of the standard stand together. */
const lines = computed(() => {
  const shown = linesOf(framework.value).filter((line) => only.value === '' || line.coverage === only.value)
  const order = [...new Set(shown.map(({ part }) => part))]
  return shown.toSorted((x, y) => order.indexOf(x.part) - order.indexOf(y.part))
})
const wordsOf = (kind: Kind): string => KINDS.find((one) => one.kind === kind)?.words ?? kind
const columns: Column<BenchmarkView['coverage'][number]>[] = [
  { key: 'requirement', title: t('benchmarks.requirement'), value: ({ requirement }) => requirement },
  { key: 'title', title: t('common.title'), value: ({ title }) => title },
  {
    key: 'coverage',
    title: t('benchmarks.coverage'),
    value: (line) => wordsOf(line.coverage),
    raw: (line) => line.coverage,
  },
  {
    key: 'rules',
    title: t('benchmarks.rulesAndQuestions'),
    value: ({ rules, attestations }) => [...rules, ...attestations].join(', '),
  },
]
</script>

<template>
  <div class="panel">
    <div class="frameworks">
      <button
        v-for="one in view.frameworks"
        :key="one.id"
        type="button"
        :aria-pressed="framework === one.id"
        class="framework"
        @click="framework = one.id"
      >
        {{ one.title }} <span class="quiet">{{ shareOf(one.id) }}</span>
      </button>
    </div>
    <p class="quiet remark">
      {{
        $t('benchmarks.countedOverAllBenchmarksOf', {
          frameworks: view.frameworks.find((one) => one.id === framework)?.remark,
        })
      }}
    </p>
    <div class="bar" aria-hidden="true">
      <span v-for="{ kind } in KINDS" :key="kind" :class="kind" :style="{ flexGrow: countOf(framework, kind) }" />
    </div>
    <div class="kinds">
      <button
        v-for="{ kind, words, means } in KINDS"
        :key="kind"
        type="button"
        class="kind"
        :aria-pressed="only === kind"
        :title="means"
        @click="only = only === kind ? '' : kind"
      >
        <i :class="kind" aria-hidden="true" /> <b>{{ countOf(framework, kind) }}</b> {{ words }}
      </button>
    </div>
    <DataTable
      name="coverage"
      :label="$t('benchmarks.coverage')"
      :rows="lines"
      :columns="columns"
      :row-key="({ requirement }) => requirement"
      :group-of="({ part }) => part"
    >
      <template #title="{ row: line }">
        {{ line.title }}
        <div v-if="line.traffic" class="quiet">{{ $t('benchmarks.traffic', { traffic: line.traffic }) }}</div>
        <div v-if="line.expectations.length > 0">
          {{ $t('benchmarks.expectations') }}
          <router-link
            v-for="id in line.expectations"
            :key="id"
            :to="`/e/${$route.params['engagement']}/traffic?expectation=${id}`"
            class="expected"
            >{{ id }}</router-link
          >
        </div>
      </template>
      <template #coverage="{ row: line }">
        <span class="decided"><i :class="line.coverage" aria-hidden="true" /> {{ wordsOf(line.coverage) }}</span>
      </template>
      <template #rules="{ row: line }">
        <template v-for="(rule, i) in line.rules" :key="rule"
          >{{ i > 0 ? ', ' : ''
          }}<router-link v-if="own.has(rule)" :to="{ query: { tab: 'rules', rule } }">{{ rule }}</router-link
          ><span v-else>{{ rule }}</span></template
        >
        <div v-if="line.attestations.length > 0" class="quiet">
          {{ $t('benchmarks.questionsListed', { attestations: line.attestations.join(', ') }) }}
        </div>
      </template>
    </DataTable>
  </div>
</template>

<style scoped>
.frameworks,
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding: 10px;
}
.framework,
.kind {
  border: var(--field);
  border-radius: 3px;
  padding: 3px 10px;
  font: inherit;
  color: inherit;
  cursor: pointer;
  min-height: 28px;
}
.framework[aria-pressed='true'],
.kind[aria-pressed='true'] {
  border-color: rgb(var(--v-theme-primary));
  box-shadow: inset 0 -2px rgb(var(--v-theme-primary));
}
.remark {
  padding: 0 10px 8px;
  font-size: 12.5px;
}
.bar {
  display: flex;
  height: 14px;
  margin: 0 10px;
  border: var(--hair);
}
.kind i,
.decided i {
  display: inline-block;
  width: 11px;
  height: 11px;
  border: 1px solid rgb(var(--v-theme-on-surface));
  vertical-align: -1px;
}
.decided {
  white-space: nowrap;
}
.part {
  text-align: left;
  font-family: var(--serif);
  padding-top: 12px;
}
.machine {
  background: rgb(var(--v-theme-primary));
}
.partly {
  background: repeating-linear-gradient(135deg, rgb(var(--v-theme-primary)) 0 3px, transparent 3px 6px);
}
.person {
  background: rgb(var(--v-theme-brass));
}
.none {
  background: transparent;
}
.outside {
  background: rgb(var(--v-theme-rule));
}
</style>
