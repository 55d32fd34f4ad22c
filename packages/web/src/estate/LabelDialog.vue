<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import { listLabels, setLabel } from '@jurybox/api/labels'
import { computed, ref, watch } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import ModalDialog from '../shared/ModalDialog.vue'
import DateField from '../shared/DateField.vue'

/** One label of many devices: who is in, who is out and why; then what came of each. */
const props = defineProps<{
  devices: readonly { id: number; name: string; labels: Readonly<Record<string, unknown>> }[]
}>()
const emit = defineEmits<{ done: []; left: [] }>()
const engagement = useEngagement()
const { problem, attempt } = useAttempt()
const { data: known, problem: unlisted } = useQuery(listLabels, () => ({}))
const labels = computed(() => known.value?.defined ?? [])
const name = ref('')
const text = ref('')
const came = ref<{ device: string; what: string }[] | null>(null)
watch(labels, ([first]) => (name.value = first?.name ?? ''))
const label = computed(() => labels.value.find((one) => one.name === name.value) ?? null)
const FLAGS = [
  { value: 'yes', title: t('estate.yes') },
  { value: 'no', title: t('estate.no') },
]
watch(name, () => (text.value = ''))
const wordOf = (value: unknown): string =>
  value === undefined ? '' : typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value)
/** Who would be another than before. */
const touched = computed(() =>
  props.devices
    .map((device) => ({ name: device.name, before: wordOf(device.labels[name.value]) }))
    .map((one) => ({ ...one, in: one.before !== text.value.trim() })),
)
const inside = computed(() => touched.value.filter((one) => one.in))
const set = () =>
  attempt(async () => {
    came.value = (
      await call(setLabel, {
        body: {
          label: name.value,
          value: text.value.trim() === '' ? null : text.value.trim(),
          devices: inside.value.map((one) => one.name),
        },
      })
    ).came
  })
const touchedColumns: Column<(typeof touched.value)[number]>[] = [
  { key: 'device', title: t('common.device'), value: ({ name }) => name },
  { key: 'now', title: t('estate.now'), value: ({ before }) => before || t('common.none') },
  {
    key: 'then',
    title: t('estate.then'),
    value: (one) => (one.in ? text.value.trim() || t('common.none') : t('estate.noChange')),
  },
]
const cameColumns: Column<{ readonly device: string; readonly what: string }>[] = [
  { key: 'device', title: t('common.device'), value: ({ device }) => device },
  { key: 'what', title: t('common.result'), value: ({ what }) => what },
]
</script>

<template>
  <ModalDialog
    :title="$t('estate.setLabelOnDevices', devices.length)"
    @update:model-value="came ? emit('done') : emit('left')"
  >
    <div class="card">
      <ProblemNote :text="problem || unlisted" />
      <template v-if="!came">
        <p v-if="labels.length === 0" class="quiet">
          {{ $t('estate.noLabelsDefinedYet') }}
          <router-link :to="`/e/${engagement.id}/estate/labels`">{{ $t('estate.defineALabel') }}</router-link>
          {{ $t('estate.first') }}
        </p>
        <form v-else class="form" @submit.prevent="set">
          <v-select
            v-model="name"
            :items="labels.map((one) => ({ value: one.name, title: `${one.name.replaceAll('_', ' ')} (${one.type})` }))"
            :label="$t('estate.label')"
          />
          <v-select
            v-if="label?.type === 'choice' || label?.type === 'flag'"
            v-model="text"
            :items="label.type === 'flag' ? FLAGS : label.choices"
            clearable
            :label="$t('estate.value')"
            @update:model-value="text = $event ?? ''"
          />
          <DateField v-else-if="label?.type === 'date'" v-model="text" :label="$t('estate.value')" />
          <v-text-field v-else v-model="text" :label="$t('estate.value')" />
        </form>
        <div v-if="labels.length > 0" class="who">
          <DataTable
            :label="$t('common.devices')"
            :rows="touched"
            :columns="touchedColumns"
            :row-key="({ name }) => name"
            :row-class="(one) => ({ out: !one.in })"
          />
        </div>
        <div class="end">
          <v-btn variant="text" @click="emit('left')">{{ $t('common.cancel') }}</v-btn><v-btn
            :variant="text.trim() === '' ? 'outlined' : 'flat'"
            :color="text.trim() === '' ? 'error' : 'primary'"
            :disabled="!label || inside.length === 0"
            @click="set"
            >{{
              text.trim() === ''
                ? $t('estate.removeLabelFrom', { inside: inside.length })
                : $t('estate.setLabelOnMembers', { inside: inside.length })
            }}</v-btn
          >
        </div>
      </template>
      <template v-else>
        <div class="who" role="status">
          <DataTable
            headless
            :label="$t('common.result')"
            :rows="came"
            :columns="cameColumns"
            :row-key="({ device }) => device"
          />
        </div>
        <div class="end">
          <v-btn variant="flat" @click="emit('done')">{{ $t('common.close') }}</v-btn>
        </div>
      </template>
    </div>
  </ModalDialog>
</template>

<style scoped>
.card {
  display: grid;
  gap: 12px;
}
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.who {
  max-height: 40vh;
  overflow: auto;
  border: var(--hair);
  border-radius: 3px;
}
:deep(.out) td {
  color: rgb(var(--v-theme-quiet));
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
