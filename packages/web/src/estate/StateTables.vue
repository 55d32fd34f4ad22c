<script setup lang="ts">
import type { StateView } from '@jurybox/api/devices'
import { computed, toRef } from 'vue'
import { t } from '../messages/index.ts'
import AgeText from '../shared/AgeText.vue'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { useExhibit } from '../stores/exhibit.ts'
import { provideOrigins } from './model-context.ts'
import SaidTable from './SaidTable.vue'
import { stateTables } from './state-tables.ts'

/** What the device was doing when its outputs were captured; every value opens its lines. */
const props = defineProps<{ view: StateView }>()
provideOrigins(toRef(props, 'view'))
const exhibit = useExhibit()
const tables = computed(() => stateTables(props.view.state))

function show(record: number, lines: readonly number[]): void {
  void exhibit.reveal(
    record,
    lines.map((line) => ({ from: line, to: line, absent: false })),
  )
}
const columns: Column<StateView['records'][number]>[] = [
  { key: 'kind', title: t('common.record'), value: ({ kind }) => kind },
  { key: 'form', title: t('estate.form'), value: ({ form, reason }) => [form, reason].filter(Boolean).join(' ') },
  { key: 'unread', title: t('estate.unparsed'), value: ({ unread }) => unread.length },
  { key: 'captured', title: t('common.captured'), value: ({ takenAt }) => takenAt ?? '' },
]
</script>

<template>
  <div class="state">
    <section>
      <h3>{{ $t('estate.outputs') }}</h3>
      <DataTable
        headless
        name="outputs"
        :label="$t('estate.outputs')"
        :rows="view.records"
        :columns="columns"
        :row-key="({ record }) => record"
      >
        <template #kind="{ row: record }">
          <button type="button" class="as-link" @click="show(record.record, [])">{{ record.kind }}</button>
        </template>
        <template #form="{ row: record }">
          {{ record.form ?? '' }}<span v-if="record.reason" class="quiet">{{ ' ' }}{{ record.reason }}</span>
        </template>
        <template #unread="{ row: record }">
          <button
            v-if="record.unread.length > 0"
            type="button"
            class="as-link"
            @click="show(record.record, record.unread)"
          >
            {{ $t('estate.linesUnparsed', { unread: record.unread.length }) }}</button><span v-else class="quiet">{{
            record.form === null ? $t('estate.notParsed') : $t('estate.allParsed')
          }}</span>
        </template>
        <template #captured="{ row: record }"><AgeText :at="record.takenAt" /></template>
      </DataTable>
    </section>
    <section v-for="table in tables" :key="table.title">
      <h3>{{ table.title }}</h3>
      <SaidTable :name="table.title" :table="table" />
    </section>
  </div>
</template>

<style scoped>
.state section {
  border-bottom: var(--hair);
  padding: 8px 0 4px;
}
.state section:last-child {
  border-bottom: 0;
}
.state h3 {
  padding: 0 10px 2px;
}
</style>
