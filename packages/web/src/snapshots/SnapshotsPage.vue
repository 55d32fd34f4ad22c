<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { api, downloadConfirmed, wordsOf } from '../api/client.ts'
import type { IntakeView, SnapshotRow, SnapshotView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useExhibit } from '../stores/exhibit.ts'
import RunAuditDialog from '../verdicts/RunAuditDialog.vue'
import DropZone from './DropZone.vue'
import IntakePanel from './IntakePanel.vue'
import RetentionPanel from './RetentionPanel.vue'
import TagsCell from './TagsCell.vue'

const engagement = useEngagement()
const exhibit = useExhibit()
const rows = ref<SnapshotRow[]>([])
const view = ref<SnapshotView | null>(null)
const intake = ref<IntakeView | null>(null)
const frozen = ref('')
const problem = ref('')
const running = ref(false)

async function load(): Promise<void> {
  try {
    rows.value = (await api.get<SnapshotRow[]>(`${engagement.base}/snapshots`)).toReversed()
    view.value = engagement.b ? await api.get<SnapshotView>(`${engagement.base}/snapshots/${engagement.b.id}`) : null
    problem.value = ''
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
watch(() => engagement.b?.id, load, { immediate: true })

/** The next step is where the focus goes when a snapshot is frozen. */
const onward = ref<{ $el: HTMLElement } | null>(null)
async function afterFreeze(snapshot: SnapshotView): Promise<void> {
  intake.value = null
  frozen.value = `“${snapshot.title}” is frozen with ${new Set(snapshot.records.map((record) => record.device)).size} devices.`
  await engagement.refresh()
  engagement.chosenB = snapshot.id
  await load()
  await nextTick()
  onward.value?.$el.focus()
}
const knownTags = computed(() => [...new Set(rows.value.flatMap(({ tags }) => tags))].sort())
async function afterLetGo(): Promise<void> {
  await engagement.refresh()
  await load()
}
/* A snapshot that was a mistake */
const doomed = ref<SnapshotRow | null>(null)
async function remove(): Promise<void> {
  if (!doomed.value) return
  try {
    await api.delete(`${engagement.base}/snapshots/${doomed.value.id}`)
    frozen.value = ''
    if (engagement.chosenB === doomed.value.id) engagement.chosenB = null
    doomed.value = null
    await afterLetGo()
  } catch (error) {
    problem.value = wordsOf(error)
    doomed.value = null
  }
}
async function leaveOut(deviceId: number): Promise<void> {
  try {
    await api.delete(`${engagement.base}/snapshots/${view.value?.id}/devices/${deviceId}`)
    await afterLetGo()
  } catch (error) {
    problem.value = wordsOf(error)
  }
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
</script>

<template>
  <div class="page">
    <div class="page-head">
      <div class="grow">
        <h1>Snapshots</h1>
        <p class="quiet">All records of all devices at one time. A snapshot never changes once it is frozen.</p>
      </div>
      <div v-if="!intake" class="actions">
        <v-btn v-if="engagement.may.collect" to="snapshots/discover">Discover devices</v-btn>
        <v-btn v-if="engagement.may.collect" to="snapshots/collect">Collect from devices</v-btn>
        <v-btn v-if="engagement.b && engagement.may.run" variant="flat" @click="running = true">Run an audit</v-btn>
      </div>
    </div>
    <ProblemNote :text="problem" />
    <p v-if="frozen" class="frozen panel" role="status">
      {{ frozen }}
      <v-btn v-if="engagement.may.run" ref="onward" size="small" variant="flat" @click="running = true"
        >Run an audit</v-btn
      >
    </p>
    <DropZone v-if="engagement.may.bringIn && !intake" @read="(view) => ((intake = view), (frozen = ''))" />
    <IntakePanel v-if="intake" :intake="intake" @frozen="afterFreeze" @dropped="intake = null" />

    <section v-if="rows.length > 0 && !intake" class="panel list">
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">Snapshot</th>
            <th scope="col">Taken</th>
            <th scope="col" class="num">Devices</th>
            <th scope="col" class="num">Carried over</th>
            <th scope="col" class="num">Unparsed lines</th>
            <th scope="col" class="num">Refused</th>
            <th v-if="engagement.may.manage" scope="col" aria-label="Delete" />
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.id" :class="{ here: row.id === engagement.b?.id }">
            <td>
              <button
                type="button"
                class="as-link"
                :aria-pressed="row.id === engagement.b?.id"
                @click="engagement.chosenB = row.id"
              >
                {{ row.title }}</button><TagsCell :snapshot="row" :known="knownTags" @changed="load" />
            </td>
            <td><AgeText :at="row.takenAt" /></td>
            <td class="num">{{ row.devices }}</td>
            <td class="num">{{ row.carried }}</td>
            <td class="num">{{ row.unread }}</td>
            <td class="num">{{ row.refused }}</td>
            <td v-if="engagement.may.manage">
              <v-btn size="small" variant="text" :aria-label="`Delete the snapshot ${row.title}`" @click="doomed = row"
                >Delete</v-btn
              >
            </td>
          </tr>
        </tbody>
      </table>
    </section>

    <RetentionPanel v-if="rows.length > 0 && !intake" :known="knownTags" @changed="afterLetGo" />
    <section v-if="view && !intake" class="holds">
      <h2>Records of “{{ view.title }}”</h2>
      <p class="quiet">Taken {{ absoluteTime(view.takenAt) }}. {{ view.note }}</p>
      <p>
        As a folder, zipped:
        <a :href="`/api${engagement.base}/snapshots/${view.id}/masked.zip`" download>secrets masked</a
        ><template v-if="engagement.may.takeCommands"
          >,
          <a
            :href="`/api${engagement.base}/snapshots/${view.id}/folder.zip`"
            download
            @click.prevent="downloadConfirmed(`/api${engagement.base}/snapshots/${view.id}/folder.zip`)"
            >with its real secrets</a
          >{{ ' ' }} <span class="quiet">(logged with your name)</span></template
        >
      </p>
      <div v-if="view.refused.length > 0" class="panel refused">
        <h3>Refused</h3>
        <p v-for="refusal in view.refused" :key="refusal.path">
          <code>{{ refusal.path }}</code>: {{ refusal.reason }}
        </p>
      </div>
      <div class="panel">
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">Device</th>
              <th scope="col">Record</th>
              <th scope="col" class="num">Lines</th>
              <th scope="col">Unparsed</th>
              <th scope="col">Taken</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(record, at) in view.records" :key="record.id">
              <td>
                <router-link :to="`estate/${record.deviceId}`">{{ record.device }}</router-link>
                <v-btn
                  v-if="engagement.may.bringIn && isFirst(at) && carriedOver.has(record.deviceId)"
                  size="small"
                  variant="text"
                  :aria-label="`Leave out ${record.device}`"
                  @click="leaveOut(record.deviceId)"
                  >Leave out</v-btn
                >
              </td>
              <td>
                <button type="button" class="as-link" @click="show(record.id, [])">{{ record.kind }}</button>
                <div v-for="fault in record.faults" :key="fault.line" class="fault">
                  not whole, line {{ fault.line }}: {{ fault.reason }}
                </div>
              </td>
              <td class="num">{{ record.lineCount }}</td>
              <td>
                <button
                  v-if="record.unread.length > 0"
                  type="button"
                  class="as-link"
                  @click="show(record.id, record.unread)"
                >
                  {{ record.unread.length }} {{ record.unread.length === 1 ? 'line' : 'lines' }}</button
                ><span v-else class="quiet">none</span>
              </td>
              <td>
                <AgeText :at="record.takenAt" :source="record.timeSource" /><span v-if="record.carried" class="quiet">
                  carried over</span
                >
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>
    <RunAuditDialog v-model="running" />
    <v-dialog :model-value="doomed !== null" aria-label="Delete snapshot" @update:model-value="doomed = null">
      <v-card v-if="doomed" class="doomed">
        <h2>Delete snapshot “{{ doomed.title }}”?</h2>
        <p>
          Its records and its audits are deleted for good. This is refused where a report of it was taken, or where
          another snapshot rests on it.
        </p>
        <div class="end">
          <v-btn variant="text" @click="doomed = null">Cancel</v-btn
          ><v-btn variant="flat" color="error" @click="remove">Delete snapshot</v-btn>
        </div>
      </v-card>
    </v-dialog>
  </div>
</template>

<style scoped>
.list {
  margin: 14px 0;
}
.here td:first-child {
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
.doomed {
  padding: 20px 24px;
  display: grid;
  gap: 12px;
  max-width: 560px;
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.refused {
  padding: 10px 14px;
}
.fault {
  color: rgb(var(--v-theme-fail));
  font-size: 12.5px;
}
</style>
