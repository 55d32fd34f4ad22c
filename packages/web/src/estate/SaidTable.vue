<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import SaidValue from './SaidValue.vue'
import type { SaidTableOf } from './said-cells.ts'

/** A table of what a device says; every value opens its lines. */
defineProps<{ table: SaidTableOf; name: string; empty?: string }>()
</script>

<template>
  <DataTable
    :name="name"
    :label="table.title"
    :rows="table.rows"
    :columns="table.columns"
    :headless="table.headless ?? false"
    :empty="empty"
  >
    <template v-for="column in table.columns" :key="column.key" #[column.key]="{ row }">
      <component :is="part.below ? 'div' : 'span'" v-for="(part, i) in row.cells[column.key] ?? []" :key="i">
        {{ i > 0 && !part.below ? ' ' : ''
        }}<SaidValue
          v-if="part.path !== undefined"
          :path="part.path"
          :text="part.text"
          :mono="part.mono ?? false"
        /><span v-else :class="{ quiet: part.quiet, mono: part.mono }">{{ part.text }}</span>
      </component>
    </template>
  </DataTable>
</template>
