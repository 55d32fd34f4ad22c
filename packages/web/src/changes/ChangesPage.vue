<script setup lang="ts">
import { type ChangedDevice, approveStates, compareSnapshots, exportChanges } from '@jurybox/api/changes'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { call, addressOf } from '../api/client.ts'
import { t } from '../messages/index.ts'
import ActionButton from '../shared/ActionButton.vue'
import DataTable from '../shared/DataTable.vue'
import EmptyPage from '../shared/EmptyPage.vue'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import type { Column } from '../shared/columns.ts'
import { useAddress } from '../shared/address.ts'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import ChangeFileDialog from './ChangeFileDialog.vue'
import ChangesHead from './ChangesHead.vue'
import SnapshotPair from './SnapshotPair.vue'
import { STANDING_WORDS, authorWords, explanationWords, isUnexplained } from './change-words.ts'

/** What changed between A and B, by device: what nobody explained comes first. */
const engagement = useEngagement()
const { text, ask } = useAddress()
const router = useRouter()
const pair = computed(() =>
  engagement.a && engagement.b ? { query: { a: engagement.a.id, b: engagement.b.id } } : null,
)
const {
  data: view,
  problem,
  reading,
  stop,
  attempt,
  load,
} = useQuery(compareSnapshots, () => pair.value, { afresh: true })
const editing = ref(false)

/* Filters stand in the address */
const KINDS = ['unexplained', 'configuration', 'access-lists', 'state', 'findings'] as const
type Kind = (typeof KINDS)[number]
const KIND_WORDS: Readonly<Record<Kind, string>> = {
  unexplained: t('changes.kindUnexplained'),
  configuration: t('changes.kindConfiguration'),
  'access-lists': t('changes.kindAccessLists'),
  state: t('changes.kindState'),
  findings: t('changes.kindFindings'),
}
const isOf: Readonly<Record<Kind, (row: ChangedDevice) => boolean>> = {
  unexplained: isUnexplained,
  configuration: ({ counts }) => counts.lines + counts.meanings > 0,
  'access-lists': ({ counts }) => counts.accessLists > 0,
  state: ({ counts }) => counts.state > 0,
  findings: ({ findings }) => findings.new + findings.resolved > 0,
}
const kind = computed(() => KINDS.find((one) => one === text('kind')) ?? null)
const site = computed(() => text('site'))
const withSame = ref(false)

/** What nobody explained, what changed, what is only on one side, the rest. */
function weight(row: ChangedDevice): number {
  if (isUnexplained(row)) return 0
  return { unreadable: 1, changed: 2, removed: 3, added: 4, carried: 5, same: 6 }[row.standing]
}
const isQuiet = ({ standing, findings }: ChangedDevice): boolean =>
  (standing === 'same' || standing === 'carried') && findings.new + findings.resolved === 0
const all = computed(() => view.value?.devices ?? [])
const counts = computed(() => Object.fromEntries(KINDS.map((one) => [one, all.value.filter(isOf[one]).length])))
const sites = computed(() => [...new Set(all.value.flatMap((row) => row.site ?? []))].sort())
const quiet = computed(() => all.value.filter(isQuiet))
const rows = computed(() =>
  all.value
    .filter((row) => kind.value === null || isOf[kind.value](row))
    .filter((row) => site.value === null || row.site === site.value)
    .filter((row) => withSame.value || !isQuiet(row))
    .toSorted((x, y) => weight(x) - weight(y) || (x.name < y.name ? -1 : 1)),
)
const changed = computed(() => all.value.filter(({ standing }) => standing === 'changed').length)
const turned = (of: 'new' | 'resolved'): number => all.value.reduce((sum, { findings }) => sum + findings[of], 0)

const columns: Column<ChangedDevice>[] = [
  { key: 'name', title: t('common.device'), value: ({ name }) => name, width: '13%' },
  { key: 'standing', title: t('changes.standing'), value: ({ standing }) => STANDING_WORDS[standing], width: '12%' },
  { key: 'summary', title: t('changes.whatChanged'), value: ({ summary }) => summary.join('; ') },
  {
    key: 'findings',
    title: t('changes.findings'),
    value: ({ findings: { new: fresh, resolved } }) =>
      fresh + resolved === 0 ? '' : t('changes.findingsTurned', { fresh, resolved }),
    width: '11%',
  },
  {
    key: 'authors',
    title: t('changes.changedBy'),
    value: ({ authors }) => authors.map(authorWords).join(', '),
    width: '13%',
  },
  {
    key: 'explained',
    title: t('changes.explanation'),
    value: (row) =>
      row.explained ? explanationWords(row.explained) : isUnexplained(row) ? t('changes.isUnexplained') : '',
    width: '14%',
  },
]
const more = ({ counts: { lines, meanings, accessLists, state }, summary }: ChangedDevice): number =>
  Math.max(0, lines + meanings + accessLists + state - summary.length)
function open(row: ChangedDevice): void {
  void router.push({ path: `/e/${engagement.id}/changes/device`, query: { device: row.name } })
}

/* Approving what was meant */
const selected = ref<(number | string)[]>([])
watch(view, () => (selected.value = []))
const approvable = computed(() => all.value.filter((row) => selected.value.includes(row.device) && row.configured))
const approving = ref(false)
const reason = ref('')
async function approve(): Promise<void> {
  const { b } = engagement
  if (!b) return
  const body = { snapshot: b.id, devices: approvable.value.map(({ device }) => device), reason: reason.value.trim() }
  if (!(await attempt(() => call(approveStates, { body })))) return
  approving.value = false
  reason.value = ''
}
</script>

<template>
  <div class="page">
    <ChangesHead :note="$t('changes.note')">
      <v-btn v-if="engagement.may.fit" variant="text" @click="editing = true">{{ $t('changes.editNoise') }}</v-btn>
      <v-btn v-if="view" variant="text" :href="addressOf(exportChanges, pair ?? {})" download>{{
        $t('changes.exportCsv')
      }}</v-btn>
      <ActionButton
        v-if="view && engagement.may.waive"
        variant="flat"
        :why="approvable.length === 0 ? $t('changes.noneConfigured') : ''"
        @click="approving = true"
        >{{ $t('changes.approve') }}</ActionButton
      >
    </ChangesHead>
    <EmptyPage
      v-if="engagement.snapshots.length < 2"
      :title="$t('changes.twoSnapshotsNeeded')"
      :text="$t('changes.twoSnapshotsText')"
    >
      <v-btn variant="flat" :to="`/e/${engagement.id}/snapshots`">{{ $t('common.importConfigurations') }}</v-btn>
    </EmptyPage>
    <template v-else>
      <SnapshotPair />
      <ProblemNote :text="problem" />
      <ReadingNote :reading="reading" @stop="stop()" />
      <template v-if="view">
        <p class="sum">
          <b>{{ $t('changes.summary', { changed, all: all.length }) }}</b>
          <span :class="{ loud: counts['unexplained'] }">{{
            counts['unexplained'] === 0
              ? $t('changes.noUnexplained')
              : $t('changes.unexplained', { count: counts['unexplained'] })
          }}</span>
          <template v-if="view.audited">
            <span>{{ $t('changes.newFindings', turned('new')) }}</span>
            <span>{{ $t('changes.resolvedFindings', { count: turned('resolved') }) }}</span>
          </template>
          <span v-else class="quiet">{{ $t('changes.notAudited') }}</span>
        </p>
        <div class="filters">
          <div role="group" :aria-label="$t('changes.kind')" class="kinds">
            <button
              v-for="one in KINDS"
              :key="one"
              type="button"
              class="kind"
              :aria-pressed="kind === one"
              :disabled="counts[one] === 0 && kind !== one"
              @click="ask({ kind: kind === one ? null : one })"
            >
              {{ KIND_WORDS[one] }} <b>{{ counts[one] }}</b>
            </button>
          </div>
          <v-select
            v-if="sites.length > 1"
            :model-value="site"
            :items="[{ title: $t('changes.all'), value: null }, ...sites.map((one) => ({ title: one, value: one }))]"
            :label="$t('changes.site')"
            hide-details
            class="site"
            @update:model-value="ask({ site: $event })"
          />
        </div>
        <DataTable
          v-model:selected="selected"
          class="panel"
          :label="$t('frame.changes')"
          :rows="rows"
          :columns="columns"
          :row-key="({ device }) => device"
          :row-class="(row) => ({ unexplained: isUnexplained(row) })"
          :selectable="engagement.may.waive"
          opens
          :empty="$t('changes.noChanges')"
          height="calc(100vh - 330px)"
          @open="open"
        >
          <template #name="{ row }"
            ><b>{{ row.name }}</b
            ><br v-if="row.site" /><span v-if="row.site" class="quiet">{{ row.site }}</span></template
          >
          <template #standing="{ row }"
            ><span :class="['standing', row.standing]">{{ STANDING_WORDS[row.standing] }}</span
            ><br v-if="row.doubts > 0" /><span v-if="row.doubts > 0" class="quiet">{{
              $t('changes.doubts', { count: row.doubts })
            }}</span></template
          >
          <template #summary="{ row }">
            <span v-for="(line, i) in row.summary" :key="i" class="line">{{ line }}</span>
            <span v-if="more(row) > 0" class="quiet">{{ $t('common.andMore', { n: more(row) }) }}</span>
          </template>
          <template #findings="{ row }"
            ><span v-if="row.findings.new + row.findings.resolved > 0" :class="{ loud: row.findings.new > 0 }">{{
              $t('changes.findingsTurned', { fresh: row.findings.new, resolved: row.findings.resolved })
            }}</span></template
          >
          <template #authors="{ row }"
            ><span
              v-for="(one, i) in row.authors"
              :key="i"
              class="line"
              :title="one.source === 'syslog' ? $t('changes.fromSyslog') : $t('changes.fromListing')"
              >{{ authorWords(one) }}</span
            ></template
          >
          <template #explained="{ row }"
            ><span v-if="row.explained" :title="row.explained.by">{{ explanationWords(row.explained) }}</span
            ><span v-else-if="isUnexplained(row)" class="loud">{{ $t('changes.isUnexplained') }}</span></template
          >
        </DataTable>
        <p v-if="quiet.length > 0">
          <button type="button" class="as-link" @click="withSame = !withSame">
            {{ withSame ? $t('changes.hideUnchanged') : $t('changes.unchanged', { count: quiet.length }) }}
          </button>
        </p>
      </template>
    </template>
    <ModalDialog v-if="approving" v-model="approving" :title="$t('changes.approveTitle', approvable.length)">
      <p>{{ $t('changes.approveText') }}</p>
      <p class="quiet">{{ approvable.map(({ name }) => name).join(', ') }}</p>
      <v-textarea v-model="reason" :label="$t('common.reason')" rows="2" autofocus />
      <ProblemNote :text="problem" />
      <template #actions>
        <v-btn variant="text" @click="approving = false">{{ $t('common.cancel') }}</v-btn>
        <v-btn variant="flat" :disabled="reason.trim() === ''" @click="approve">{{ $t('changes.approve') }}</v-btn>
      </template>
    </ModalDialog>
    <ChangeFileDialog v-if="editing" v-model="editing" kind="noise" @saved="load()" />
  </div>
</template>

<style scoped>
.sum {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin: 12px 0 10px;
}
.loud {
  color: rgb(var(--v-theme-fail));
  font-weight: 600;
}
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
  margin-bottom: 10px;
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.kind {
  font: inherit;
  font-size: 13px;
  min-height: 28px;
  padding: 2px 10px;
  color: inherit;
  border: 1px solid rgb(var(--v-theme-rule));
  border-radius: 3px;
  background: rgb(var(--v-theme-surface));
  cursor: pointer;
}
.kind[aria-pressed='true'] {
  border-color: rgb(var(--v-theme-primary));
  box-shadow: inset 0 0 0 1px rgb(var(--v-theme-primary));
}
.kind:disabled {
  color: rgb(var(--v-theme-quiet));
  cursor: default;
}
.site {
  max-width: 200px;
}
.line {
  display: block;
  overflow-wrap: anywhere;
}
.standing.changed {
  font-weight: 600;
}
.standing.unreadable {
  color: rgb(var(--v-theme-unknown));
  font-weight: 600;
}
</style>
