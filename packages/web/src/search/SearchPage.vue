<script setup lang="ts">
import { t } from '../messages/index.ts'
import type { QueryOf } from '@jurybox/api/endpoint'
import { type FoundPart, searchEstate } from '@jurybox/api/search'
import { addGroup } from '@jurybox/api/groups'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { call } from '../api/client.ts'
import EmptyPage from '../shared/EmptyPage.vue'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import { KINDS } from './found-words.ts'

/** Everything that answers a question, by kind, each opened at its line; the question can be saved as a group. */
const engagement = useEngagement()
const exhibit = useExhibit()
const route = useRoute()
const router = useRouter()
const took = ref<number | null>(null)
const text = ref(String(route.query['q'] ?? ''))
const asked = computed(() => String(route.query['q'] ?? ''))
const kind = computed(() => String(route.query['kind'] ?? ''))
/* Saved, it is a group. */
const title = ref('')
const saving = ref(false)
const saved = ref('')
const { problem: refused, attempt } = useAttempt()
const FEW = 8
const MANY = 200

watch([asked, kind, () => engagement.b?.id], () => {
  text.value = asked.value
  saved.value = ''
})
const {
  data: parts,
  problem,
  loading,
  reading,
  stop,
} = useQuery(
  searchEstate,
  () =>
    asked.value.trim() === ''
      ? null
      : {
          query: {
            q: asked.value,
            snapshot: engagement.b?.id,
            limit: kind.value === '' ? FEW : MANY,
            kind: (kind.value || undefined) as QueryOf<typeof searchEstate>['kind'],
          },
        },
  { afresh: true },
)
let began = performance.now()
watch(loading, (now) => {
  if (now) began = performance.now()
  else took.value = performance.now() - began
})
const search = (): void => void router.push({ query: { q: text.value.trim() } })
const more = (of: string): void => void router.push({ query: { ...route.query, kind: of } })
async function show({ at, to }: FoundPart['hits'][number]): Promise<void> {
  if (!at) return void router.push(to)
  await exhibit.reveal(at.record, [{ from: at.from, to: at.to, absent: false }])
}
async function keep(): Promise<void> {
  const kept = await attempt(() =>
    call(addGroup, { body: { title: title.value, kind: 'search', text: asked.value, counted: false } }),
  )
  if (!kept) return
  saved.value = title.value
  title.value = ''
  saving.value = false
}
const ruled = (of: FoundPart['kind']): boolean => of === 'rule' || of === 'requirement'
const isLine = (kind: FoundPart['kind']): boolean => kind === 'line' || kind === 'output'
const columnsOf = ({ kind }: FoundPart): Column<FoundPart['hits'][number]>[] => [
  { key: 'device', title: t('common.device'), value: ({ device }) => device ?? '', width: '160px' },
  { key: 'title', title: t('common.result'), value: ({ title }) => title },
  {
    key: 'detail',
    title: t('search.detail'),
    value: ({ detail, at }) =>
      (at && !isLine(kind) ? `${detail} ${t('search.line', { from: at.from })}` : detail).trim(),
    quiet: true,
  },
]
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>{{ $t('common.search') }}</h1>
        <p class="quiet">
          {{ $t('search.searchesNamesFactsLabelsAddresses', { title: engagement.b?.title }) }}
        </p>
      </div>
      <v-btn
        v-if="parts && parts.some((part) => !ruled(part.kind)) && engagement.may.describe && !saving"
        @click="saving = true"
        >{{ $t('search.saveAsGroup') }}</v-btn
      >
    </div>
    <form class="ask" role="search" @submit.prevent="search">
      <v-text-field v-model="text" :label="$t('search.searchText')" autofocus spellcheck="false" class="code" />
      <v-btn type="submit" variant="flat">{{ $t('common.search') }}</v-btn>
    </form>
    <p class="quiet how">
      {{ $t('search.wordsInAnyOrder') }} <code>{{ $t('search.exactPhrase') }}</code>,
      <code>{{ $t('search.re2Pattern') }}</code>{{ $t('search.anAddressOrAPrefix') }}
      <code>{{ $t('search.insideInterfaceVlan') }}</code> {{ $t('search.forLinesInABlock') }}
    </p>
    <ProblemNote :text="problem || refused" />
    <ReadingNote :reading="reading" @stop="stop" />
    <form v-if="saving" class="panel save" @submit.prevent="keep">
      <v-text-field v-model="title" :label="$t('search.groupTitle')" autofocus /><v-btn
        type="submit"
        variant="flat"
        :disabled="!title.trim()"
        >{{ $t('common.save') }}</v-btn
      ><v-btn variant="text" @click="saving = false">{{ $t('common.cancel') }}</v-btn>
    </form>
    <p v-if="saved" class="panel save" role="status">
      {{ $t('search.savedAsGroup') }}
      <router-link :to="{ path: 'estate', query: { group: saved } }">{{
        $t('search.showTheDevicesOf', { saved })
      }}</router-link>{{ $t('search.inScopes') }} <code>{{ $t('search.inDeviceGroups', { saved }) }}</code>;
      <router-link to="estate/groups">{{ $t('search.allGroups') }}</router-link>
    </p>
    <template v-if="parts">
      <p v-if="parts.length > 0 && took !== null" class="quiet" role="status">
        {{
          $t('search.foundInMs', {
            parts: parts.reduce((sum, part) => sum + part.total, 0),
            took: Math.max(1, Math.round(took)),
          })
        }}<template v-if="kind"
          >{{ ' ' }}·
          <button type="button" class="as-link" @click="search">{{ $t('search.allTypes') }}</button></template
        >
      </p>
      <EmptyPage
        v-if="parts.length === 0"
        :title="$t('search.noResults')"
        :text="$t('search.noNameFactLineOr', { asked })"
      />
      <section v-for="part in parts" :key="part.kind" class="panel part">
        <h2>
          {{ KINDS[part.kind][1] }}
          <span class="quiet"
            >{{ part.total
            }}<template v-if="part.devices !== undefined && part.kind !== 'device'"
              >{{ ' ' }}{{ $t('search.at', part.devices) }}</template
            ></span
          >
        </h2>
        <DataTable headless :name="part.kind" :label="KINDS[part.kind][1]" :rows="part.hits" :columns="columnsOf(part)">
          <template #device="{ row: hit }">
            <router-link v-if="hit.device && part.kind !== 'device'" :to="hit.to">{{ hit.device }}</router-link>
          </template>
          <template #title="{ row: hit }">
            <button type="button" class="as-link" :class="{ mono: isLine(part.kind) }" @click="show(hit)">
              {{ hit.title }}
            </button>
          </template>
        </DataTable>
        <p v-if="part.total > part.hits.length && !ruled(part.kind)" class="more">
          <v-btn v-if="kind === ''" size="small" variant="text" @click="more(part.kind)">{{
            $t('search.show', { many: Math.min(part.total, MANY), part: part.total > MANY ? ` of ${part.total}` : '' })
          }}</v-btn><span v-else class="quiet">{{
            $t('search.showingTheFirstSaveThe', { hits: part.hits.length })
          }}</span>
        </p>
      </section>
    </template>
  </div>
</template>

<style scoped>
.ask {
  display: flex;
  gap: 10px;
  align-items: center;
  max-width: 860px;
}
.code :deep(input) {
  font-family: var(--mono);
  font-size: 13px;
}
.how {
  margin: 6px 0 12px;
}
.save {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 10px 14px;
  margin-bottom: 12px;
  flex-wrap: wrap;
}
.save > :first-child {
  min-width: 240px;
  max-width: 420px;
}
.part {
  margin-top: 12px;
}
.part h2 {
  padding: 8px 12px;
  border-bottom: var(--hair);
}
.part h2 span {
  font-family: var(--sans);
  font-weight: 400;
  font-size: 13px;
}
.who {
  width: 130px;
}
td {
  overflow-wrap: anywhere;
}
.detail {
  text-align: right;
  font-size: 12.5px;
}
.more {
  padding: 4px 8px;
}
</style>
