<script setup lang="ts">
import { type DriftRow, exportDrift, listDrift } from '@jurybox/api/drift'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { addressOf } from '../api/client.ts'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import type { Column } from '../shared/columns.ts'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import ChangesHead from './ChangesHead.vue'
import { authorWords, explanationWords } from './change-words.ts'

/** Devices that depart from what was approved, from references, or from what is saved; unexplained ones first. */
const engagement = useEngagement()
const router = useRouter()
const asked = computed(() => (engagement.b ? { query: { snapshot: engagement.b.id } } : null))
const { data: view, problem, reading, stop } = useQuery(listDrift, () => asked.value, { afresh: true })
const KINDS: Readonly<Record<DriftRow['kind'], string>> = {
  approved: t('changes.driftApproved'),
  reference: t('changes.driftReference'),
  saved: t('changes.driftSaved'),
}
const isLoud = ({ kind, explained }: DriftRow): boolean => kind === 'approved' && explained === null
const words = (row: DriftRow): string =>
  row.explained ? explanationWords(row.explained) : isLoud(row) ? t('changes.isUnexplained') : ''
const columns: Column<DriftRow>[] = [
  { key: 'name', title: t('common.device'), value: ({ name }) => name, width: '13%' },
  { key: 'kind', title: t('changes.departsFrom'), value: ({ kind }) => KINDS[kind], width: '18%' },
  { key: 'lines', title: t('common.lines'), value: ({ lines }) => lines.join('; ') },
  {
    key: 'authors',
    title: t('changes.changedBy'),
    value: ({ authors }) => authors.map(authorWords).join(', '),
    width: '14%',
  },
  { key: 'explained', title: t('changes.explanation'), value: words, width: '15%' },
]
/** Each kind opens where it is seen in full. */
function open({ kind, name, baseline }: DriftRow): void {
  const base = `/e/${engagement.id}/changes`
  if (kind === 'reference')
    return void router.push({ path: `${base}/references`, query: { reference: baseline?.id ?? '', device: name } })
  const query =
    kind === 'saved'
      ? { device: name, a: engagement.b?.id, listingA: 'config.saved' }
      : { device: name, ...(baseline ? { a: baseline.id } : {}) }
  void router.push({ path: `${base}/device`, query })
}
</script>

<template>
  <div class="page">
    <ChangesHead :note="$t('changes.driftNote')">
      <v-btn v-if="asked" variant="text" :href="addressOf(exportDrift, asked)" download>{{
        $t('changes.exportCsv')
      }}</v-btn>
    </ChangesHead>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop()" />
    <template v-if="view">
      <EmptyPage
        v-if="view.rows.length === 0 && view.undecided.length === 0"
        :title="$t('changes.noDrift')"
        :text="$t('changes.noDriftText')"
      />
      <DataTable
        v-if="view.rows.length > 0"
        class="panel"
        :label="$t('changes.drift')"
        :rows="view.rows"
        :columns="columns"
        :row-key="({ device, kind, baseline }) => `${device} ${kind} ${baseline?.id ?? ''}`"
        opens
        @open="open"
      >
        <template #name="{ row }"
          ><b>{{ row.name }}</b
          ><br v-if="row.site" /><span v-if="row.site" class="quiet">{{ row.site }}</span></template
        >
        <template #kind="{ row }"
          >{{ KINDS[row.kind] }}<br v-if="row.baseline" /><span v-if="row.baseline" class="quiet">{{
            row.baseline.title
          }}</span></template
        >
        <template #lines="{ row }">
          <code v-for="(line, i) in row.lines.slice(0, 4)" :key="i" class="line">{{ line }}</code>
          <span v-if="row.count > 4" class="quiet">{{ $t('common.andMore', { n: row.count - 4 }) }}</span>
        </template>
        <template #explained="{ row }"
          ><span :class="{ loud: isLoud(row) }">{{ words(row) }}</span></template
        >
      </DataTable>
      <p v-if="view.undecided.length > 0" class="unknown note">
        {{ $t('changes.driftUndecided', { devices: view.undecided.join(', ') }) }}
      </p>
      <p v-if="view.unapproved.length > 0" class="quiet note">
        {{ $t('changes.neverApproved', { devices: view.unapproved.join(', ') }) }}
      </p>
      <p v-if="view.unsaved.length > 0" class="quiet note">
        {{ $t('changes.savedNotCaptured', { devices: view.unsaved.join(', ') }) }}
      </p>
    </template>
  </div>
</template>

<style scoped>
.line {
  display: block;
  font-family: var(--mono);
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
.loud {
  color: rgb(var(--v-theme-fail));
  font-weight: 600;
}
.unknown {
  color: rgb(var(--v-theme-unknown));
}
.note {
  margin-top: 8px;
}
</style>
