<script setup lang="ts">
import type { ModelView } from '@jurybox/api/devices'
import { computed } from 'vue'
import SaidTable from './SaidTable.vue'
import { securityTable } from './security-table.ts'

/** Zones and their policies, address translation, tunnels and certificates; every value opens its lines. */
const props = defineProps<{ view: ModelView }>()
const table = computed(() => securityTable(props.view.model))
</script>

<template>
  <SaidTable name="security" :table="table" :empty="$t('estate.theConfigurationHasNoZones')" />
</template>
