<script setup lang="ts">
import { type ModelNamesView, listModelNames, setModelNames } from '@jurybox/api/model-names'
import { computed, reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import type { Column } from '../shared/columns.ts'
import { useQuery } from '../shared/query.ts'
import { firstOf } from '../shared/words.ts'
import { useConfirm } from '../stores/confirm.ts'
import { useEngagement } from '../stores/engagement.ts'

/** Names of models by the object identifiers that SNMP agents state; first those that nobody named. */
const emit = defineEmits<{ changed: [] }>()
const engagement = useEngagement()
const confirm = useConfirm()
const {
  data: view,
  problem,
  attempt,
  fields,
} = useQuery(listModelNames, () => ({ query: { snapshot: engagement.b?.id } }))
type Row = { readonly objectId: string; readonly name: string; readonly devices: readonly string[] }
const rows = computed<Row[]>(() => [
  ...(view.value?.unnamed ?? []).map(({ objectId, devices }) => ({ objectId, name: '', devices })),
  ...(view.value?.names ?? []).map(({ objectId, name }) => ({ objectId, name, devices: [] })),
])
const columns: Column<Row>[] = [
  { key: 'objectId', title: t('estate.objectIdentifier'), value: ({ objectId }) => objectId, nowrap: true },
  { key: 'name', title: t('common.model'), value: ({ name, devices }) => name || firstOf(devices, 4) },
  { key: 'actions', title: t('common.actions'), value: () => '', acts: true },
]
const form = reactive({ objectId: '', name: '' })
/** The entry that is changed; empty for a new one, null where the form is closed. */
const editing = ref<string | null>(null)
function edit(row: Row | null): void {
  Object.assign(form, { objectId: row?.objectId ?? '', name: row?.name ?? '' })
  editing.value = row?.name ? row.objectId : ''
}
async function keep(names: ModelNamesView['names']): Promise<boolean> {
  const done = await attempt(() => call(setModelNames, { body: { names } }))
  if (done) emit('changed')
  return done
}
const without = (objectId: string): ModelNamesView['names'] =>
  (view.value?.names ?? []).filter((one) => one.objectId !== objectId)
const taken = computed(
  () =>
    editing.value !== form.objectId.trim() &&
    without(editing.value ?? '').some((one) => one.objectId === form.objectId.trim()),
)
/** The server checks the whole table: its complaint of the last entry belongs to the form. */
const complaint = (field: 'objectId' | 'name'): string | undefined =>
  field === 'objectId' && taken.value
    ? t('estate.thisIdentifierHasAName')
    : Object.entries(fields.value).find(([path]) => path.endsWith(`.${field}`))?.[1]
async function save(): Promise<void> {
  if (taken.value || !(await keep([...without(editing.value ?? ''), { ...form }]))) return
  editing.value = null
}
const remove = (row: Row): Promise<void> =>
  confirm.deletion(t('estate.kindModelName'), row.name, () => keep(without(row.objectId)))
</script>

<template>
  <section class="panel block">
    <div class="head">
      <h2>{{ $t('estate.modelNames') }}</h2>
      <v-btn v-if="engagement.may.describe && editing === null" size="small" @click="edit(null)">{{
        $t('estate.addModelName')
      }}</v-btn>
    </div>
    <p class="quiet">{{ $t('estate.modelNamesNote') }}</p>
    <ProblemNote :text="complaint('objectId') || complaint('name') ? '' : problem" />
    <form v-if="editing !== null" class="form" @submit.prevent="save">
      <v-text-field
        v-model="form.objectId"
        :error-messages="complaint('objectId')"
        :label="$t('estate.objectIdentifier')"
        class="code"
      />
      <v-text-field v-model="form.name" :error-messages="complaint('name')" :label="$t('common.model')" />
      <div>
        <v-btn type="submit" variant="flat" :disabled="!form.objectId.trim() || !form.name.trim()">{{
          $t('common.save')
        }}</v-btn>
        <v-btn variant="text" @click="editing = null">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
    <DataTable
      v-if="rows.length > 0"
      name="model-names"
      :label="$t('estate.modelNames')"
      :rows="rows"
      :columns="columns"
    >
      <template #objectId="{ row }"
        ><code>{{ row.objectId }}</code></template
      >
      <template #name="{ row }">
        <template v-if="row.name">{{ row.name }}</template>
        <span v-else class="quiet">{{ $t('estate.noNameYet', { devices: firstOf(row.devices, 4) }) }}</span>
      </template>
      <template #actions="{ row }">
        <template v-if="engagement.may.describe">
          <v-btn
            size="small"
            variant="text"
            :aria-label="
              row.name
                ? $t('estate.editModelName', { name: row.objectId })
                : $t('estate.setModelName', { name: row.objectId })
            "
            @click="edit(row)"
            >{{ row.name ? $t('common.edit') : $t('estate.setName') }}</v-btn
          >
          <v-btn
            v-if="row.name"
            size="small"
            variant="text"
            :aria-label="$t('estate.deleteModelName', { name: row.name })"
            @click="remove(row)"
            >{{ $t('common.delete') }}</v-btn
          >
        </template>
      </template>
    </DataTable>
    <p v-else-if="view" class="quiet">{{ $t('estate.noModelNamesYet') }}</p>
  </section>
</template>

<style scoped>
.block {
  padding: 12px 16px;
  margin-top: 14px;
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
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 10px;
}
.code :deep(input),
code {
  font-family: var(--mono);
  font-size: 12.5px;
}
</style>
