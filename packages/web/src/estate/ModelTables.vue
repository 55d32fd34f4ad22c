<script setup lang="ts">
import type { ModelView } from '@jurybox/api/devices'
import { computed } from 'vue'
import { t } from '../messages/index.ts'
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { systemGroups } from './model-rows.ts'
import { entryTable, interfaceTable, routingTable, userTable } from './model-tables.ts'
import SaidTable from './SaidTable.vue'
import SaidValue from './SaidValue.vue'
import { useExhibit } from '../stores/exhibit.ts'

/** The device model by parts; every value opens its lines. */
const props = defineProps<{ part: string; view: ModelView }>()
const exhibit = useExhibit()
const model = computed(() => props.view.model)
const groups = computed(() =>
  props.part === 'system' ? systemGroups(model.value).filter(({ rows }) => rows.length > 0) : [],
)

function showLine(record: string, line: number): void {
  void exhibit.reveal(Number(record), [{ from: line, to: line, absent: false }])
}
const share = computed(() => ((100 * props.view.unread.length) / Math.max(1, props.view.lines)).toFixed(1))
const unreadColumns: Column<ModelView['unread'][number]>[] = [
  { key: 'line', title: t('estate.lineColumn'), value: ({ line }) => line, numeric: true, plain: true, width: '70px' },
  { key: 'block', title: t('estate.block'), value: ({ block }) => block ?? '', mono: true, quiet: true },
  { key: 'text', title: t('estate.textColumn'), value: ({ text }) => text, mono: true },
]
</script>

<template>
  <div v-if="part === 'system'" class="groups">
    <section v-for="group in groups" :key="group.title">
      <h3>{{ group.title }}</h3>
      <dl>
        <div v-for="row in group.rows" :key="row.path + row.label">
          <dt class="quiet">{{ row.label }}</dt>
          <dd><SaidValue :path="row.path" :text="row.text" /></dd>
        </div>
      </dl>
    </section>
  </div>
  <SaidTable
    v-else-if="part === 'interfaces'"
    name="interfaces"
    :table="interfaceTable(model)"
    :empty="$t('estate.theConfigurationHasNoInterfaces')"
  />
  <SaidTable
    v-else-if="part === 'users'"
    name="users"
    :table="userTable(model)"
    :empty="$t('estate.theConfigurationHasNoUsers')"
  />
  <div v-else-if="part === 'lists'" class="lists">
    <details v-for="(list, i) in model.accessLists" :key="list.family + list.name">
      <summary>
        <strong>{{ list.name }}</strong>{{ ' ' }}
        <span class="quiet">{{
          $t('estate.entriesDefault', {
            family: list.family,
            entries: list.entries.length,
            list: list.defaultAction === 'return' ? 'return' : list.defaultAction,
          })
        }}</span>
      </summary>
      <SaidTable :name="list.name" :table="entryTable(list, i)" />
    </details>
    <p v-if="model.accessLists.length === 0" class="quiet empty">{{ $t('estate.theConfigurationHasNoAccess') }}</p>
  </div>
  <SaidTable
    v-else-if="part === 'routes'"
    name="routing"
    :table="routingTable(model)"
    :empty="$t('estate.theConfigurationHasNoStatic')"
  />
  <div v-else-if="part === 'unread'">
    <p class="quiet empty">
      {{ $t('estate.ofLinesAreUnparsedThe', { unread: view.unread.length, lines: view.lines, share }) }}
    </p>
    <DataTable
      name="unparsed"
      :label="$t('estate.unparsed')"
      :rows="view.unread"
      :columns="unreadColumns"
      :row-key="({ record, line }) => `${record}:${line}`"
    >
      <template #line="{ row: line }">
        <button type="button" class="as-link" @click="showLine(line.record, line.line)">{{ line.line }}</button>
      </template>
    </DataTable>
  </div>
</template>

<style scoped>
.groups {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(270px, 1fr));
  gap: 14px 28px;
  padding: 12px 14px;
}
.groups h3 {
  margin-bottom: 4px;
  border-bottom: var(--hair);
  padding-bottom: 2px;
}
dl {
  margin: 0;
}
dl > div {
  display: grid;
  grid-template-columns: minmax(104px, 38%) 1fr;
  gap: 8px;
  padding: 1px 0;
}
dt {
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
dd {
  margin: 0;
  min-width: 0;
  overflow-wrap: anywhere;
}
.lists details {
  border-bottom: var(--hair);
}
.lists summary {
  padding: 7px 12px;
  cursor: pointer;
}
.empty {
  padding: 10px 14px;
}
</style>
