<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import { useConfirm } from '../stores/confirm.ts'
import { t } from '../messages/index.ts'
import {
  type ApprovalsView,
  addApprovalException,
  approveVersion,
  deleteApproval,
  listApprovals,
} from '@jurybox/api/approvals'
import { computed, reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import DataSheet from '../shared/DataSheet.vue'
import type { Column } from '../shared/columns.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import { useQuery } from '../shared/query.ts'
import { absoluteTime, dayOf } from '../shared/time.ts'
import { useEngagement } from '../stores/engagement.ts'
import ApprovedMark from './ApprovedMark.vue'
import { APPROVED_WORDS } from './approved-words.ts'
import EstateHead from './EstateHead.vue'
import ModelNamesPanel from './ModelNamesPanel.vue'
import DateField from '../shared/DateField.vue'

const confirm = useConfirm()

/** Which versions may run, on which hardware, who looked through their faults; and where each device stands. */
const engagement = useEngagement()
const {
  data: view,
  problem,
  reading,
  stop,
  attempt,
  fields,
} = useQuery(listApprovals, () => ({ query: { snapshot: engagement.b?.id } }))
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
const WHOM = [
  { value: 'models', title: t('estate.modelsOfOneFamily') },
  { value: 'label', title: t('estate.devicesWithALabel') },
  { value: 'device', title: t('estate.oneDevice') },
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
  if (!(await attempt(() => call(approveVersion, { body })))) return
  Object.assign(form, blank())
  adding.value = null
}
async function except(): Promise<void> {
  if (!(await attempt(() => call(addApprovalException, { body: exception })))) return
  Object.assign(exception, bare())
  adding.value = null
}
const whomOf = (one: ApprovalsView['versions'][number]): string =>
  one.device !== null
    ? one.device
    : one.label !== null
      ? t('estate.labelValue', { replaceAll: one.label.name.replaceAll('_', ' '), label: String(one.label.value) })
      : one.models.join(', ')
type Row = ApprovalsView['devices'][number] & { id: string }
const rows = computed<Row[]>(() =>
  (view.value?.devices ?? []).map((one) => ({ ...one, standing: one.standing ?? 'none', id: one.device })),
)
const columns: Column<Row>[] = [
  { key: 'device', title: t('common.device'), value: (row) => row.device },
  { key: 'model', title: t('common.model'), value: (row) => row.model ?? '' },
  {
    key: 'version',
    title: t('estate.runningVersion'),
    value: (row) => [row.os, row.version].filter(Boolean).join(' '),
  },
  { key: 'standing', title: t('estate.status'), value: (row) => APPROVED_WORDS[row.standing] },
  { key: 'why', title: t('common.reason'), value: (row) => row.why ?? '' },
  {
    key: 'images',
    title: t('estate.availableImages'),
    value: (row) => row.images.map(({ image }) => image).join(', '),
  },
]
function exceptFor(row: Row): void {
  if (row.standing !== 'off' || !engagement.may.describe) return
  Object.assign(exception, bare(), { device: row.device, version: row.version ?? '' })
  adding.value = 'exception'
}
const approved = computed(() => [...(view.value?.versions ?? []), ...(view.value?.exceptions ?? [])])
type Approved = (typeof approved.value)[number]
const approvedColumns: Column<Approved>[] = [
  { key: 'version', title: t('estate.version'), value: ({ version }) => version, nowrap: true },
  {
    key: 'whom',
    title: t('common.appliesTo'),
    value: (one) => ('until' in one ? t('estate.exception', { device: one.device }) : whomOf(one)),
  },
  { key: 'image', title: t('estate.image'), value: (one) => ('until' in one ? '' : one.image) },
  {
    key: 'fits',
    title: t('estate.hardware'),
    value: (one) => ('until' in one ? '' : one.fits.join(', ') || t('estate.notStated')),
  },
  {
    key: 'issues',
    title: t('estate.knownIssues'),
    value: (one) => ('until' in one ? t('estate.untilReason', { until: one.until, reason: one.reason }) : one.note),
  },
  { key: 'actions', title: t('common.actions'), value: () => '', acts: true },
]
</script>

<template>
  <div class="page">
    <EstateHead :note="$t('estate.approvedSoftwareByModelLabel')">
      <v-btn v-if="engagement.may.describe && adding === null" @click="adding = 'exception'">{{
        $t('estate.addException')
      }}</v-btn>
      <v-btn v-if="engagement.may.describe && adding === null" variant="flat" @click="adding = 'version'">{{
        $t('estate.approveVersion')
      }}</v-btn>
    </EstateHead>
    <ProblemNote :text="problem" />
    <ReadingNote :reading="reading" @stop="stop" />
    <form v-if="adding === 'version'" class="panel form" @submit.prevent="approve">
      <div class="three">
        <v-text-field v-model="form.version" :error-messages="fields['version']" :label="$t('estate.version')" />
        <v-select v-model="form.whom" :error-messages="fields['whom']" :items="WHOM" :label="$t('common.appliesTo')" />
        <v-text-field
          v-if="form.whom === 'models'"
          v-model="form.models"
          :error-messages="fields['models']"
          :label="$t('estate.modelCodesSeparatedByCommas')"
          persistent-placeholder
          :placeholder="models[0]"
        />
        <v-text-field
          v-else-if="form.whom === 'device'"
          v-model="form.device"
          :error-messages="fields['device']"
          :label="$t('common.device')"
        />
        <div v-else class="two">
          <v-text-field
            v-model="form.label"
            :error-messages="fields['label']"
            :label="$t('estate.label')"
          /><v-text-field v-model="form.value" :error-messages="fields['value']" :label="$t('estate.value')" />
        </div>
        <v-text-field v-model="form.image" :error-messages="fields['image']" :label="$t('estate.imageFile')" />
        <v-text-field v-model="form.source" :error-messages="fields['source']" :label="$t('estate.source')" />
        <v-text-field
          v-model="form.fits"
          :error-messages="fields['fits']"
          :label="form.whom === 'models' ? $t('estate.hardwareModelsEmptyAsAbove') : $t('estate.hardwareModels')"
        />
        <v-text-field
          v-model="form.sha256"
          :error-messages="fields['sha256']"
          :label="$t('estate.sha256OfTheImage')"
          class="code wide"
        />
        <v-text-field
          v-model="form.reviewedBy"
          :error-messages="fields['reviewedBy']"
          :label="$t('estate.knownIssuesReviewedBy')"
        />
        <DateField v-model="form.reviewedAt" :error-messages="fields['reviewedAt']" :label="$t('estate.date')" />
        <v-text-field v-model="form.note" :error-messages="fields['note']" :label="$t('common.result')" class="wide" />
      </div>
      <div>
        <v-btn type="submit" variant="flat" :disabled="!form.version.trim()">{{ $t('estate.approveVersion') }}</v-btn>
        <v-btn variant="text" @click="adding = null">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
    <form v-if="adding === 'exception'" class="panel form" @submit.prevent="except">
      <div class="three">
        <v-text-field
          v-model="exception.device"
          :error-messages="fields['device']"
          :label="$t('common.device')"
        /><v-text-field
          v-model="exception.version"
          :error-messages="fields['version']"
          :label="$t('estate.version')"
        /><DateField
          v-model="exception.until"
          :error-messages="fields['until']"
          :label="$t('estate.until')"
        /><v-text-field
          v-model="exception.reason"
          :error-messages="fields['reason']"
          :label="$t('common.reason')"
          class="wide"
        />
      </div>
      <div>
        <v-btn
          type="submit"
          variant="flat"
          :disabled="!exception.device || !exception.version || !exception.reason || !exception.until"
          >{{ $t('estate.addException') }}</v-btn
        >
        <v-btn variant="text" @click="adding = null">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
    <section v-if="view && view.versions.length + view.exceptions.length > 0" class="panel lists">
      <DataTable name="approvals" :label="$t('estate.version')" :rows="approved" :columns="approvedColumns">
        <template #version="{ row: one }">
          <b>{{ one.version }}</b>
          <div class="quiet">
            {{ one.setBy }}, <span :title="absoluteTime(one.setAt)">{{ dayOf(one.setAt) }}</span>
          </div>
        </template>
        <template #image="{ row: one }">
          <template v-if="!('until' in one)">
            {{ one.image || $t('common.none') }}
            <div class="quiet">{{ one.source }}</div>
            <code v-if="one.sha256" :title="one.sha256">{{ one.sha256.slice(0, 16) }}…</code>
          </template>
        </template>
        <template #issues="{ row: one }">
          <template v-if="'until' in one">{{
            $t('estate.untilReason', { until: one.until, reason: one.reason })
          }}</template>
          <template v-else>
            {{ one.reviewedBy ? `${one.reviewedBy}, ${one.reviewedAt}` : $t('estate.notReviewed') }}
            <div class="quiet">{{ one.note }}</div>
          </template>
        </template>
        <template #actions="{ row: one }">
          <v-btn
            v-if="engagement.may.describe"
            size="small"
            variant="text"
            :aria-label="
              'until' in one
                ? $t('estate.deleteExceptionOf', { device: one.device })
                : $t('estate.deleteApprovalOfFor', { version: one.version, whomOf: whomOf(one) })
            "
            @click="
              confirm.deletion(
                'until' in one ? $t('estate.kindException') : $t('estate.kindApproval'),
                'until' in one ? one.device : one.version,
                () => attempt(() => call(deleteApproval, { params: { approval: one.id } })),
              )
            "
            >{{ $t('common.delete') }}</v-btn
          >
        </template>
      </DataTable>
    </section>
    <p v-else-if="view" class="quiet none">
      {{ $t('estate.noVersionIsApprovedYet') }}
    </p>
    <DataSheet
      v-if="view && rows.length > 0"
      name="versions"
      :label="$t('estate.devices')"
      :one="$t('estate.singleDevice')"
      :rows="rows"
      :columns="columns"
      height="50vh"
      @open="exceptFor"
    >
      <template #standing="{ row }"><ApprovedMark :standing="row.standing" :why="row.why" /></template>
    </DataSheet>
    <ModelNamesPanel @changed="attempt(async () => undefined)" />
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
