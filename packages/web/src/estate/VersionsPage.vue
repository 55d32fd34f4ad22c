<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { api } from '../api/client.ts'
import type { ApprovalsView } from '../api/estate-types.ts'
import DataSheet, { type Column } from '../shared/DataSheet.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { usePolling } from '../shared/polling.ts'
import { absoluteTime } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import ApprovedMark from './ApprovedMark.vue'
import { APPROVED_WORDS } from './approved-words.ts'
import EstateHead from './EstateHead.vue'

/** Which versions may run, on which hardware, who looked through their faults; and where each device stands. */
const engagement = useEngagement()
const { reading, ask, stop } = usePolling()
const view = ref<ApprovalsView | null>(null)
const { problem, attempt } = useAttempt(() => load())
const adding = ref<'version' | 'exception' | null>(null)
const blank = () => ({
  whom: 'models',
  models: '',
  label: '',
  value: '',
  device: '',
  version: '',
  image: '',
  source: '',
  sha256: '',
  fits: '',
  reviewedBy: '',
  reviewedAt: '',
  note: '',
})
const form = reactive(blank())
const bare = () => ({ device: '', version: '', reason: '', until: '' })
const exception = reactive(bare())
async function load(): Promise<void> {
  const found = await ask<ApprovalsView>(`${engagement.base}/approvals`, { snapshot: engagement.b?.id })
  if (found) view.value = found
}
watch(
  () => engagement.b?.id,
  () => void attempt(async () => undefined),
  { immediate: true },
)
const WHOM = [
  { value: 'models', title: 'Models, one family' },
  { value: 'label', title: 'What a label says' },
  { value: 'device', title: 'One device' },
]
const models = computed(() => [...new Set((view.value?.devices ?? []).flatMap(({ model }) => model ?? []))].sort())
const listed = (text: string): string[] =>
  text
    .split(',')
    .map((one) => one.trim())
    .filter(Boolean)
const typed = (text: string): string | number | boolean =>
  text === 'yes' ? true : text === 'no' ? false : /^-?\d+(?:\.\d+)?$/.test(text) ? Number(text) : text
async function approve(): Promise<void> {
  const { whom, models: of, label, value, device, reviewedAt, fits, ...more } = form
  const fit = listed(fits)
  const body = {
    ...more,
    models: whom === 'models' ? listed(of) : [],
    label: whom === 'label' ? { name: label, value: typed(value.trim()) } : null,
    device: whom === 'device' ? device : null,
    fits: fit.length === 0 && whom === 'models' ? listed(of) : fit,
    reviewedAt: reviewedAt || null,
  }
  if (!(await attempt(() => api.post(`${engagement.base}/approvals`, body)))) return
  Object.assign(form, blank())
  adding.value = null
}
async function except(): Promise<void> {
  if (!(await attempt(() => api.post(`${engagement.base}/approval-exceptions`, exception)))) return
  Object.assign(exception, bare())
  adding.value = null
}
const whomOf = (one: ApprovalsView['versions'][number]): string =>
  one.device !== null
    ? one.device
    : one.label !== null
      ? `labelled ${one.label.name.replaceAll('_', ' ')}: ${String(one.label.value)}`
      : one.models.join(', ')
type Row = ApprovalsView['devices'][number] & { id: string }
const rows = computed<Row[]>(() =>
  (view.value?.devices ?? []).map((one) => ({ ...one, standing: one.standing ?? 'none', id: one.device })),
)
const columns: Column<Row>[] = [
  { key: 'device', title: 'Device', value: (row) => row.device },
  { key: 'model', title: 'Model', value: (row) => row.model ?? '' },
  { key: 'version', title: 'Runs', value: (row) => [row.os, row.version].filter(Boolean).join(' ') },
  { key: 'standing', title: 'Stands', value: (row) => APPROVED_WORDS[row.standing] },
  { key: 'why', title: 'Why', value: (row) => row.why ?? '' },
  { key: 'images', title: 'Images that fit it', value: (row) => row.images.map(({ image }) => image).join(', ') },
]
function exceptFor(row: Row): void {
  if (row.standing !== 'off' || !engagement.may.describe) return
  Object.assign(exception, bare(), { device: row.device, version: row.version ?? '' })
  adding.value = 'exception'
}
</script>

<template>
  <div class="page">
    <EstateHead
      note="What may run where; a device’s own list goes before that of a label, and that before that of its model"
    >
      <v-btn v-if="engagement.may.describe && adding === null" @click="adding = 'exception'">Make an exception</v-btn>
      <v-btn v-if="engagement.may.describe && adding === null" variant="flat" @click="adding = 'version'"
        >Approve a version</v-btn
      >
    </EstateHead>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <form v-if="adding === 'version'" class="panel form" @submit.prevent="approve">
      <div class="three">
        <v-text-field v-model="form.version" label="Version" />
        <v-select v-model="form.whom" :items="WHOM" label="For" />
        <v-text-field
          v-if="form.whom === 'models'"
          v-model="form.models"
          label="Model codes, with commas"
          persistent-placeholder
          :placeholder="models[0]"
        />
        <v-text-field v-else-if="form.whom === 'device'" v-model="form.device" label="Device" />
        <div v-else class="two">
          <v-text-field v-model="form.label" label="Label" /><v-text-field v-model="form.value" label="Value" />
        </div>
        <v-text-field v-model="form.image" label="Image, its file" />
        <v-text-field v-model="form.source" label="Where it came from" />
        <v-text-field
          v-model="form.fits"
          :label="form.whom === 'models' ? 'Fits the hardware; nothing: the models' : 'Fits the hardware, model codes'"
        />
        <v-text-field v-model="form.sha256" label="SHA-256 of the image" class="code wide" />
        <v-text-field v-model="form.reviewedBy" label="Known faults reviewed by" />
        <v-text-field v-model="form.reviewedAt" label="On" type="date" />
        <v-text-field v-model="form.note" label="What came of it" class="wide" />
      </div>
      <div>
        <v-btn type="submit" variant="flat" :disabled="!form.version.trim()">Approve it</v-btn>
        <v-btn variant="text" @click="adding = null">Leave</v-btn>
      </div>
    </form>
    <form v-if="adding === 'exception'" class="panel form" @submit.prevent="except">
      <div class="three">
        <v-text-field v-model="exception.device" label="Device" /><v-text-field
          v-model="exception.version"
          label="May run the version"
        /><v-text-field v-model="exception.until" label="Until" type="date" /><v-text-field
          v-model="exception.reason"
          label="Reason"
          class="wide"
        />
      </div>
      <div>
        <v-btn
          type="submit"
          variant="flat"
          :disabled="!exception.device || !exception.version || !exception.reason || !exception.until"
          >Make the exception</v-btn
        >
        <v-btn variant="text" @click="adding = null">Leave</v-btn>
      </div>
    </form>
    <section v-if="view && view.versions.length + view.exceptions.length > 0" class="panel lists">
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">Version</th>
            <th scope="col">For</th>
            <th scope="col">Image</th>
            <th scope="col">Fits</th>
            <th scope="col">Known faults</th>
            <th scope="col"><span class="sr">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in view.versions" :key="one.id">
            <td>
              <b>{{ one.version }}</b>
              <div class="quiet">
                {{ one.setBy }}, <span :title="absoluteTime(one.setAt)">{{ one.setAt.slice(0, 10) }}</span>
              </div>
            </td>
            <td>{{ whomOf(one) }}</td>
            <td>
              {{ one.image || 'none named' }}
              <div class="quiet">{{ one.source }}</div>
              <code v-if="one.sha256" :title="one.sha256">{{ one.sha256.slice(0, 16) }}…</code>
            </td>
            <td>{{ one.fits.join(', ') || 'not said: no plan names it' }}</td>
            <td>
              {{ one.reviewedBy ? `${one.reviewedBy}, ${one.reviewedAt}` : 'not reviewed' }}
              <div class="quiet">{{ one.note }}</div>
            </td>
            <td class="acts">
              <v-btn
                v-if="engagement.may.describe"
                size="small"
                variant="text"
                :aria-label="`Take off ${one.version} for ${whomOf(one)}`"
                @click="attempt(() => api.delete(`${engagement.base}/approvals/${one.id}`))"
                >Take off</v-btn
              >
            </td>
          </tr>
          <tr v-for="one in view.exceptions" :key="one.id">
            <td>
              <b>{{ one.version }}</b>
              <div class="quiet">{{ one.setBy }}, {{ one.setAt.slice(0, 10) }}</div>
            </td>
            <td>{{ one.device }}, an exception</td>
            <td colspan="3">until {{ one.until }}: {{ one.reason }}</td>
            <td class="acts">
              <v-btn
                v-if="engagement.may.describe"
                size="small"
                variant="text"
                :aria-label="`End the exception of ${one.device}`"
                @click="attempt(() => api.delete(`${engagement.base}/approvals/${one.id}`))"
                >End</v-btn
              >
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <p v-else-if="view" class="quiet none">
      No version is approved yet: of no device can be said whether its software may run.
    </p>
    <DataSheet
      v-if="view && rows.length > 0"
      name="versions"
      label="devices"
      :rows="rows"
      :columns="columns"
      height="50vh"
      @open="exceptFor"
    >
      <template #standing="{ row }"><ApprovedMark :standing="row.standing" :why="row.why" /></template>
    </DataSheet>
  </div>
</template>

<style scoped>
.form {
  padding: 12px 16px;
  margin-bottom: 12px;
  display: grid;
  gap: 10px;
}
.three {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 10px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.wide {
  grid-column: span 2;
}
.code :deep(input),
code {
  font-family: var(--mono);
  font-size: 12.5px;
}
.lists {
  margin-bottom: 14px;
  max-height: 40vh;
  overflow: auto;
}
.none {
  margin-bottom: 12px;
}
.acts {
  text-align: right;
}
</style>
