<script setup lang="ts">
import { keptIn } from '../shared/kept.ts'
import { useConfirm } from '../stores/confirm.ts'
import { t } from '../messages/index.ts'
import {
  type IntakeView,
  type SnapshotRow,
  type SnapshotView,
  getSnapshot,
  listSnapshots,
} from '@jurybox/api/snapshots'
import { deleteSnapshot, removeCarriedDevice, downloadMaskedSnapshot, downloadSnapshot } from '@jurybox/api/archive'
import { computed, nextTick, ref, watch } from 'vue'
import { downloadConfirmed, call, addressOf } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import RunAuditDialog from '../verdicts/RunAuditDialog.vue'
import DropZone from './DropZone.vue'
import IntakePanel from './IntakePanel.vue'
import RetentionPanel from './RetentionPanel.vue'
import TagsCell from './TagsCell.vue'
import ModalDialog from '../shared/ModalDialog.vue'

const confirm = useConfirm()

const engagement = useEngagement()
const exhibit = useExhibit()
// What was imported and not frozen yet survives a reload of the page.
const staged = keptIn<IntakeView>(`import of engagement ${engagement.id}`)
const intake = ref<IntakeView | null>(staged.read())
watch(intake, (view) => staged.write(view))
const frozen = ref('')
const running = ref(false)

const { data: listed, problem: unlisted, load: loadList } = useQuery(listSnapshots, () => ({}))
const rows = computed(() => (listed.value ?? []).toReversed())
const {
  data: view,
  problem: unread,
  load: loadView,
} = useQuery(getSnapshot, () => (engagement.b ? { params: { snapshot: engagement.b.id } } : null))
const { problem: refused, attempt } = useAttempt()
const problem = computed(() => refused.value || unlisted.value || unread.value)
const load = () => Promise.all([loadList(), loadView()])
/** Where snapshots are chosen their tags stand, too. */
const afterTagging = () => Promise.all([load(), engagement.refresh()])

/** The next step is where the focus goes when a snapshot is frozen. */
const onward = ref<{ $el: HTMLElement } | null>(null)
async function afterFreeze(snapshot: SnapshotView): Promise<void> {
  intake.value = null
  frozen.value = t('snapshots.isFrozenWithDevices', {
    snapshot: snapshot.title,
    Set: new Set(snapshot.records.map((record) => record.device)).size,
  })
  await engagement.refresh()
  engagement.chosenB = snapshot.id
  await load()
  await nextTick()
  onward.value?.$el.focus()
}
const confirmedDownload = (snapshot: number) =>
  attempt(() => downloadConfirmed(addressOf(downloadSnapshot, { params: { snapshot } })))
const knownTags = computed(() => [...new Set(rows.value.flatMap(({ tags }) => tags))].sort())
async function afterLetGo(): Promise<void> {
  await engagement.refresh()
  await load()
}
/* A snapshot that was a mistake */
const doomed = ref<SnapshotRow | null>(null)
async function remove(): Promise<void> {
  const snapshot = doomed.value?.id
  if (snapshot === undefined) return
  await attempt(async () => {
    await call(deleteSnapshot, { params: { snapshot } })
    frozen.value = ''
    if (engagement.chosenB === snapshot) engagement.chosenB = null
    await afterLetGo()
  })
  doomed.value = null
}
async function leaveOut(deviceId: number): Promise<void> {
  const snapshot = view.value?.id
  if (snapshot === undefined) return
  const device = view.value?.records.find((record) => record.deviceId === deviceId)?.device ?? ''
  const question = {
    title: t('snapshots.removeNamed', { device, snapshot: view.value?.title }),
    text: t('snapshots.removedFromLater'),
    action: t('snapshots.removeDevice'),
  }
  if (!(await confirm.ask(question))) return
  await attempt(async () => {
    await call(removeCarriedDevice, { params: { snapshot, device: deviceId } })
    await afterLetGo()
  })
}
/** Carried over whole: nothing of them came with this snapshot. */
const carriedOver = computed(() => {
  const records = view.value?.records ?? []
  const fresh = new Set(records.filter(({ carried }) => !carried).map(({ deviceId }) => deviceId))
  return new Set(records.filter(({ deviceId }) => !fresh.has(deviceId)).map(({ deviceId }) => deviceId))
})
const isFirst = (at: number): boolean => view.value?.records[at - 1]?.deviceId !== view.value?.records[at]?.deviceId
function show(recordId: number, unread: readonly number[]): void {
  void exhibit.reveal(
    recordId,
    unread.map((line) => ({ from: line, to: line, absent: false })),
  )
}

const columns = computed((): Column<SnapshotRow>[] => [
  { key: 'title', title: t('snapshots.snapshot'), value: ({ title }) => title },
  { key: 'captured', title: t('common.captured'), value: ({ takenAt }) => takenAt },
  { key: 'devices', title: t('common.devices'), value: ({ devices }) => devices, numeric: true },
  { key: 'carried', title: t('snapshots.carriedOver'), value: ({ carried }) => carried, numeric: true },
  { key: 'unread', title: t('snapshots.unparsedLines'), value: ({ unread }) => unread, numeric: true },
  { key: 'refused', title: t('snapshots.refused'), value: ({ refused }) => refused, numeric: true },
  ...(engagement.may.manage ? [{ key: 'delete', title: t('common.delete'), value: () => '', acts: true }] : []),
])
type HeldRecord = SnapshotView['records'][number]
const recordColumns: Column<HeldRecord>[] = [
  { key: 'device', title: t('common.device'), value: ({ device }) => device },
  { key: 'record', title: t('common.record'), value: ({ kind }) => kind },
  { key: 'lines', title: t('common.lines'), value: ({ lineCount }) => lineCount, numeric: true },
  { key: 'unread', title: t('snapshots.unparsed'), value: ({ unread }) => unread.length },
  { key: 'captured', title: t('common.captured'), value: ({ takenAt }) => takenAt ?? '' },
]
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>{{ $t('common.snapshots') }}</h1>
        <p class="quiet">{{ $t('snapshots.recordsOfAllDevicesAt') }}</p>
      </div>
      <div v-if="!intake" class="actions">
        <v-btn v-if="engagement.may.collect" to="snapshots/discover">{{ $t('snapshots.discoverDevices') }}</v-btn>
        <v-btn v-if="engagement.may.collect" to="snapshots/collect">{{ $t('snapshots.collectFromDevices') }}</v-btn>
        <v-btn v-if="engagement.b && engagement.may.run" variant="flat" @click="running = true">{{
          $t('common.runAudit')
        }}</v-btn>
      </div>
    </div>
    <ProblemNote :text="problem" />
    <p v-if="frozen" class="frozen panel" role="status">
      {{ frozen }}
      <v-btn v-if="engagement.may.run" ref="onward" size="small" variant="flat" @click="running = true">{{
        $t('common.runAudit')
      }}</v-btn>
    </p>
    <DropZone v-if="engagement.may.import && !intake" @read="(view) => ((intake = view), (frozen = ''))" />
    <IntakePanel v-if="intake" :intake="intake" @frozen="afterFreeze" @dropped="intake = null" />

    <section v-if="rows.length > 0 && !intake" class="panel list">
      <DataTable
        name="snapshots"
        :label="$t('common.snapshots')"
        :rows="rows"
        :columns="columns"
        :row-class="(row) => ({ here: row.id === engagement.b?.id })"
      >
        <template #title="{ row }">
          <button
            type="button"
            class="as-link"
            :aria-pressed="row.id === engagement.b?.id"
            @click="engagement.chosenB = row.id"
          >
            {{ row.title }}</button><TagsCell :snapshot="row" :known="knownTags" @changed="afterTagging" />
        </template>
        <template #captured="{ row }"><AgeText :at="row.takenAt" /></template>
        <template #delete="{ row }">
          <v-btn
            v-if="engagement.may.manage"
            size="small"
            variant="text"
            :aria-label="$t('snapshots.deleteTheSnapshot', { row: row.title })"
            @click="doomed = row"
            >{{ $t('common.delete') }}</v-btn
          >
        </template>
      </DataTable>
    </section>

    <RetentionPanel v-if="rows.length > 0 && !intake" :known="knownTags" @changed="afterLetGo" />
    <section v-if="view && !intake" class="holds">
      <h2>{{ $t('snapshots.recordsOf', { title: view.title }) }}</h2>
      <p class="quiet">{{ $t('snapshots.captured', { takenAt: absoluteTime(view.takenAt), note: view.note }) }}</p>
      <p>
        {{ $t('snapshots.downloadAsZip') }}
        <a :href="addressOf(downloadMaskedSnapshot, { params: { snapshot: view.id } })" download>{{
          $t('snapshots.secretsMasked')
        }}</a><template v-if="engagement.may.exportSecrets"
          >,
          <a
            :href="addressOf(downloadSnapshot, { params: { snapshot: view.id } })"
            download
            @click.prevent="confirmedDownload(view.id)"
            >{{ $t('snapshots.withRealSecrets') }}</a>{{ ' ' }}
          <span class="quiet">{{ $t('snapshots.loggedWithYourName') }}</span></template
        >
      </p>
      <div v-if="view.refused.length > 0" class="panel refused">
        <h3>{{ $t('snapshots.refused') }}</h3>
        <p v-for="refusal in view.refused" :key="refusal.path">
          <code>{{ refusal.path }}</code>: {{ refusal.reason }}
        </p>
      </div>
      <div class="panel">
        <DataTable
          name="records"
          :label="$t('snapshots.recordsOf', { title: view.title })"
          :rows="view.records"
          :columns="recordColumns"
        >
          <template #device="{ row: record, at }">
            <router-link :to="`estate/${record.deviceId}`">{{ record.device }}</router-link>
            <v-btn
              v-if="engagement.may.import && isFirst(at) && carriedOver.has(record.deviceId)"
              size="small"
              variant="text"
              :aria-label="$t('snapshots.removeFromTheSnapshot', { device: record.device })"
              @click="leaveOut(record.deviceId)"
              >{{ $t('common.remove') }}</v-btn
            >
          </template>
          <template #record="{ row: record }">
            <button type="button" class="as-link" @click="show(record.id, [])">{{ record.kind }}</button>
            <div v-for="fault in record.faults" :key="fault.line" class="fault">
              {{ $t('snapshots.incompleteLine', { line: fault.line, reason: fault.reason }) }}
            </div>
          </template>
          <template #unread="{ row: record }">
            <button
              v-if="record.unread.length > 0"
              type="button"
              class="as-link"
              @click="show(record.id, record.unread)"
            >
              {{ $t('common.linesCounted', record.unread.length) }}</button><span v-else class="quiet">{{
              $t('common.none')
            }}</span>
          </template>
          <template #captured="{ row: record }">
            <AgeText :at="record.takenAt" :source="record.timeSource" /><span v-if="record.carried" class="quiet"
              >{{ ' ' }}{{ $t('snapshots.carriedOverMark') }}</span
            >
          </template>
        </DataTable>
      </div>
    </section>
    <RunAuditDialog v-model="running" />
    <ModalDialog
      :model-value="doomed !== null"
      :title="$t('snapshots.deleteSnapshotNamed', { doomed: doomed?.title ?? '' })"
      @update:model-value="doomed = null"
    >
      <p>
        {{ $t('snapshots.itsRecordsAndAuditsAre') }}
      </p>
      <template #actions>
        <v-btn variant="text" @click="doomed = null">{{ $t('common.cancel') }}</v-btn><v-btn
          variant="flat"
          color="error"
          @click="remove"
          >{{ $t('snapshots.deleteSnapshot') }}</v-btn
        >
      </template>
    </ModalDialog>
  </div>
</template>

<style scoped>
.list {
  margin: 14px 0;
}
:deep(.here) td:first-child {
  box-shadow: inset 3px 0 rgb(var(--v-theme-primary));
}
.holds {
  margin-top: 20px;
  display: grid;
  gap: 8px;
}
.frozen {
  padding: 10px 14px;
  margin-bottom: 12px;
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
}
.refused {
  padding: 10px 14px;
}
.fault {
  color: rgb(var(--v-theme-fail));
  font-size: 12.5px;
}
</style>
