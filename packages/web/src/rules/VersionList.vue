<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import {
  type DifferencesView,
  type OwnVersion,
  compareOwnBenchmark,
  getOwnBenchmark,
  listOwnBenchmarks,
  publishOwnBenchmark,
  saveOwnBenchmark,
} from '@jurybox/api/rules'
import { computed, ref } from 'vue'
import { call } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import { useSettled } from '../shared/settled.ts'
import { useRuleBench } from '../stores/rule-bench.ts'

/** Every version that was saved; what the text in hand says otherwise than one of them. */
const bench = useRuleBench()
const { data: listed, problem: unlisted, load } = useQuery(listOwnBenchmarks, () => ({}))
const versions = computed(() => listed.value ?? [])
/** Version that is compared with; null: the last of the same benchmark. */
const against = ref<number | null>(null)
const written = useSettled(() => bench.text)
const {
  data: differing,
  problem: uncompared,
  load: compare,
} = useQuery(compareOwnBenchmark, () => ({
  body: { text: written.value, ...(against.value === null ? {} : { number: against.value }) },
}))
const { problem: refused, attempt } = useAttempt()
const problem = computed(() => refused.value || unlisted.value || uncompared.value)
const said = ref('')
const why = ref('')
const working = (work: () => Promise<string>) => attempt(async () => void (said.value = await work()))
const save = () =>
  working(async () => {
    const { benchmark, number } = await call(saveOwnBenchmark, { body: { text: bench.text, why: why.value } })
    why.value = ''
    against.value = null
    await load()
    await compare()
    return t('rules.savedAsVersionOf', { number, benchmark })
  })
const publish = ({ benchmark, number }: OwnVersion) =>
  working(async () => {
    await call(publishOwnBenchmark, { params: { benchmark, number } })
    await load()
    return t('rules.publishedVersionOf', { number, benchmark })
  })
const openVersion = ({ benchmark, number }: OwnVersion) =>
  working(async () => {
    bench.text = (await call(getOwnBenchmark, { params: { benchmark, number } })).text
    return t('rules.openedVersionOf', { number, benchmark })
  })
const nothing = (view: DifferencesView): boolean =>
  view.differences !== null && view.differences.about.length + view.differences.parts.length === 0
const WHAT = { added: 'new', removed: 'gone', changed: 'changed' } as const
const columns: Column<(typeof versions.value)[number]>[] = [
  { key: 'version', title: t('rules.version'), value: ({ benchmark, number }) => `${benchmark} ${number}` },
  { key: 'why', title: t('common.reason'), value: ({ why }) => why },
  { key: 'saved', title: t('rules.saved'), value: ({ createdAt, by }) => `${createdAt} ${by}`, quiet: true },
  { key: 'actions', title: t('common.actions'), value: () => '', acts: true },
]
</script>

<template>
  <div class="versions">
    <form class="save" @submit.prevent="save">
      <v-text-field v-model="why" :label="$t('rules.reasonForTheChange')" /><v-btn
        type="submit"
        variant="flat"
        :disabled="bench.wrong !== '' || why.trim().length < 3"
        >{{ $t('rules.saveVersion') }}</v-btn
      >
    </form>
    <ProblemNote :text="problem" />
    <p role="status" class="quiet">{{ said }}</p>
    <DataTable
      v-if="versions.length > 0"
      class="panel"
      name="versions"
      :label="$t('rules.version')"
      :rows="versions"
      :columns="columns"
      :row-key="({ benchmark, number }) => `${benchmark} ${number}`"
    >
      <template #saved="{ row: version }">{{ version.by }}, <AgeText :at="version.createdAt" /></template>
      <template #actions="{ row: version }">
        <div class="acts">
          <v-btn size="small" variant="text" @click="openVersion(version)">{{ $t('rules.open') }}</v-btn><v-btn
            size="small"
            variant="text"
            @click="against = version.number"
            >{{ $t('rules.compare') }}</v-btn
          ><router-link v-if="version.publishedAt" :to="`benchmarks/${version.benchmark}`">{{
            $t('rules.published')
          }}</router-link
          ><v-btn v-else size="small" @click="publish(version)">{{ $t('rules.publish') }}</v-btn>
        </div>
      </template>
    </DataTable>
    <template v-if="differing">
      <h3 v-if="differing.against">
        {{
          $t('rules.currentTextComparedWithVersion', {
            number: differing.against.number,
            benchmark: differing.against.benchmark,
          })
        }}
      </h3>
      <p v-else-if="differing.wrong" class="wrong" role="alert">
        {{ $t('rules.theTextIsNotA', { wrong: differing.wrong }) }}
      </p>
      <p v-else class="quiet">{{ $t('rules.noSavedVersionsYet') }}</p>
      <p v-if="nothing(differing)" class="quiet">{{ $t('rules.noDifferences') }}</p>
      <div v-for="one in differing.differences?.about ?? []" :key="one.field" class="panel part">
        <b>{{ one.field }}</b>
        <pre v-if="one.from !== null" class="mono from">{{ one.from }}</pre>
        <pre v-if="one.to !== null" class="mono to">{{ one.to }}</pre>
      </div>
      <div v-for="part in differing.differences?.parts ?? []" :key="`${part.kind} ${part.id}`" class="panel part">
        <div>
          <b>{{ part.title }}</b> <span class="quiet">{{ part.kind }} {{ part.id }}, {{ WHAT[part.what] }}</span>
        </div>
        <template v-for="field in part.fields" :key="field.field">
          <div class="quiet">{{ field.field }}</div>
          <pre v-if="field.from !== null" class="mono from">{{ field.from }}</pre>
          <pre v-if="field.to !== null" class="mono to">{{ field.to }}</pre>
        </template>
      </div>
    </template>
  </div>
</template>

<style scoped>
.versions {
  display: grid;
  gap: 10px;
}
.save {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 10px;
  align-items: center;
}
.wrong {
  color: rgb(var(--v-theme-fail));
  white-space: pre-wrap;
}
.acts {
  white-space: nowrap;
  text-align: right;
}
.part {
  padding: 8px 14px;
  display: grid;
  gap: 4px;
}
.part pre {
  margin: 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  padding: 2px 8px;
  border-left: 3px solid;
}
.from {
  border-color: rgb(var(--v-theme-fail)) !important;
  text-decoration: line-through;
  text-decoration-color: rgb(var(--v-theme-quiet));
}
.to {
  border-color: rgb(var(--v-theme-pass)) !important;
}
</style>
