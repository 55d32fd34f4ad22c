<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import {
  type LabelsView,
  applyLabelsFromFacts,
  defineLabel,
  deleteLabel,
  listLabels,
  previewLabelsFromFacts,
} from '@jurybox/api/labels'
import { computed, reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import ScopeForm from '../shared/ScopeForm.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import DeviceListPanel from './DeviceListPanel.vue'
import EstateHead from './EstateHead.vue'
import SitesPanel from './SitesPanel.vue'

/** What labels there are, what sets them, and lists of devices that come in and go out. */
const engagement = useEngagement()
const { data: view, problem, fields, attempt } = useQuery(listLabels, () => ({}), { changed: () => loadWaiting() })
const { data: waiting, problem: unknown, load: loadWaiting } = useQuery(previewLabelsFromFacts, () => ({}))
const blank = () => ({
  name: '',
  type: 'text' as LabelsView['defined'][number]['type'],
  choices: '',
  note: '',
  sets: '',
})
const form = reactive(blank())
const adding = ref(false)
const TYPES = [
  { value: 'text', title: t('estate.textColumn') },
  { value: 'number', title: t('estate.number') },
  { value: 'date', title: t('estate.date') },
  { value: 'person', title: t('estate.person') },
  { value: 'choice', title: t('estate.choice') },
  { value: 'flag', title: t('estate.yesOrNo') },
]
async function define(): Promise<void> {
  const { name, type, choices, note, sets } = form
  const kept = await attempt(() =>
    call(defineLabel, {
      body: {
        name,
        type,
        choices:
          type === 'choice'
            ? choices
                .split(',')
                .map((one) => one.trim())
                .filter(Boolean)
            : [],
        note,
        sets: sets.trim() || null,
      },
    }),
  )
  if (!kept) return
  Object.assign(form, blank())
  adding.value = false
}
function change({ name, type, choices, note, sets }: LabelsView['defined'][number]): void {
  Object.assign(form, { name, type, choices: choices.join(', '), note, sets: sets ?? '' })
  adding.value = true
}
function defineFor(name: string): void {
  Object.assign(form, { ...blank(), name })
  adding.value = true
}
const removing = ref('')
const wordOf = (value: unknown): string =>
  value === null ? 'none' : typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value)
const ready = computed(() => /^[a-z]\w*$/.test(form.name) && (form.type !== 'choice' || form.choices.trim() !== ''))
const columns: Column<LabelsView['defined'][number]>[] = [
  { key: 'label', title: t('estate.label'), value: ({ name }) => name },
  { key: 'type', title: t('common.type'), value: ({ type, choices }) => [type, ...choices].join(', ') },
  { key: 'devices', title: t('common.devices'), value: ({ devices }) => devices, numeric: true },
  { key: 'actions', title: t('common.actions'), value: () => '', acts: true },
]
const waitingRows = computed(() => [
  ...(waiting.value?.changes ?? []).map(({ device, label, before, after }) => ({
    device,
    label,
    what: `${wordOf(before)} → ${wordOf(after)}`,
    refused: false,
  })),
  ...(waiting.value?.refused ?? []).map(({ device, label, reason }) => ({
    device,
    label,
    what: reason,
    refused: true,
  })),
])
const waitingColumns: Column<(typeof waitingRows.value)[number]>[] = [
  { key: 'device', title: t('common.device'), value: ({ device }) => device },
  { key: 'label', title: t('estate.label'), value: ({ label }) => label.replaceAll('_', ' ') },
  { key: 'what', title: t('common.result'), value: ({ what }) => what },
]
</script>

<template>
  <div class="page">
    <EstateHead :note="$t('estate.factsAboutDevicesThatNo')" />
    <ProblemNote :text="problem || unknown" />
    <div v-if="view" class="layout">
      <div class="column">
        <section class="panel block">
          <div class="head">
            <h2>{{ $t('estate.labels') }}</h2>
            <v-btn v-if="engagement.may.describe && !adding" size="small" @click="adding = true">{{
              $t('estate.defineLabel')
            }}</v-btn>
          </div>
          <form v-if="adding" class="form" @submit.prevent="define">
            <div class="two">
              <v-text-field
                v-model="form.name"
                :error-messages="fields['name']"
                :label="$t('estate.nameSuchAsHandlesCard')"
                class="code"
              /><v-select
                v-model="form.type"
                :error-messages="fields['type']"
                :items="TYPES"
                :label="$t('common.type')"
              />
            </div>
            <v-text-field
              v-if="form.type === 'choice'"
              v-model="form.choices"
              :error-messages="fields['choices']"
              :label="$t('estate.choicesSeparatedByCommas')"
            />
            <v-text-field v-model="form.note" :error-messages="fields['note']" :label="$t('estate.description')" />
            <ScopeForm
              v-model="form.sets"
              :label="$t('estate.factRuleCelOverDevice')"
              :preview="form.type === 'flag'"
              hint='device.site.startsWith("ves-")'
            />
            <div>
              <v-btn type="submit" variant="flat" :disabled="!ready">{{ $t('common.save') }}</v-btn>
              <v-btn variant="text" @click="adding = false">{{ $t('common.cancel') }}</v-btn>
            </div>
          </form>
          <DataTable
            v-if="view.defined.length > 0"
            name="labels"
            :label="$t('estate.label')"
            :rows="view.defined"
            :columns="columns"
            :row-key="({ name }) => name"
          >
            <template #label="{ row: label }">
              {{ label.name.replaceAll('_', ' ') }}
              <div class="quiet">{{ label.note }}</div>
              <code v-if="label.sets" class="sets">{{ label.sets }}</code>
            </template>
            <template #type="{ row: label }">
              {{ label.type }}
              <div v-if="label.choices.length > 0" class="quiet">{{ label.choices.join(', ') }}</div>
            </template>
            <template #actions="{ row: label }">
              <template v-if="engagement.may.describe && removing !== label.name"
                ><v-btn
                  size="small"
                  variant="text"
                  :aria-label="$t('estate.change', { name: label.name })"
                  @click="change(label)"
                  >{{ $t('common.edit') }}</v-btn
                ><v-btn
                  size="small"
                  variant="text"
                  :aria-label="$t('estate.deleteLabel', { name: label.name })"
                  @click="removing = label.name"
                  >{{ $t('common.delete') }}</v-btn
                ></template
              >
              <template v-else-if="removing === label.name"
                ><span class="quiet">{{ $t('estate.andItsValuesOnDevices', { devices: label.devices }) }} </span
                ><v-btn
                  size="small"
                  @click="((removing = ''), attempt(() => call(deleteLabel, { params: { label: label.name } })))"
                  >{{ $t('estate.deleteLabelButton') }}</v-btn
                ><v-btn size="small" variant="text" @click="removing = ''">{{ $t('common.cancel') }}</v-btn></template
              >
            </template>
          </DataTable>
          <p v-else-if="!adding" class="quiet">{{ $t('estate.noLabelsDefinedYet') }}</p>
          <p v-if="view.undefined.length > 0">
            {{ $t('estate.labelsOnDevicesWithoutA') }}
            <template v-for="(one, i) in view.undefined" :key="one.name"
              ><template v-if="i > 0">, </template
              ><button v-if="engagement.may.describe" type="button" class="as-link" @click="defineFor(one.name)">
                {{ one.name }}</button
              ><span v-else>{{ one.name }}</span> <span class="quiet">({{ one.devices }})</span></template
            >
          </p>
        </section>
        <section v-if="waiting && waitingRows.length > 0" class="panel block">
          <div class="head">
            <h2>{{ $t('estate.factRules') }}</h2>
            <v-btn
              v-if="engagement.may.describe && waiting.changes.length > 0"
              size="small"
              variant="flat"
              @click="attempt(() => call(applyLabelsFromFacts))"
              >{{ $t('estate.applyChanges', { changes: waiting.changes.length }) }}</v-btn
            >
          </div>
          <p class="quiet">
            {{ $t('estate.theseLabelsDifferFromWhat') }}
          </p>
          <div class="many">
            <DataTable
              headless
              :label="$t('estate.label')"
              :rows="waitingRows"
              :columns="waitingColumns"
              :row-key="({ device, label }) => `${device} ${label}`"
              :row-class="({ refused }) => ({ bad: refused })"
            />
          </div>
        </section>
        <DeviceListPanel @changed="attempt(async () => undefined)" />
      </div>
      <SitesPanel />
    </div>
  </div>
</template>

<style scoped>
.layout {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(260px, 2fr);
  gap: 16px;
  align-items: start;
}
.column {
  display: grid;
  gap: 16px;
  grid-template-columns: minmax(0, 1fr);
}
.block {
  padding: 12px 16px;
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
}
.form {
  display: grid;
  gap: 10px;
  padding: 4px 0 10px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.code :deep(input),
.sets {
  font-family: var(--mono);
  font-size: 12.5px;
}
.sets {
  overflow-wrap: anywhere;
}
.acts {
  text-align: right;
  white-space: nowrap;
}
.many {
  max-height: 240px;
  overflow: auto;
}
.bad {
  color: rgb(var(--v-theme-fail));
}
@media (max-width: 1000px) {
  .layout {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
