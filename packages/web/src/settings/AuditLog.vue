<script setup lang="ts">
import type { ActivityFilter, ActivityView } from '@jurybox/api/activity'
import { exportInstallationActivity, listInstallationActivity } from '@jurybox/api/accounts'
import { exportActivity, listActivity } from '@jurybox/api/engagements'
import { computed } from 'vue'
import { addressOf } from '../api/client.ts'
import { t } from '../messages/index.ts'
import ChainVerification from './ChainVerification.vue'
import AgeText from '../shared/AgeText.vue'
import DataSheet from '../shared/DataSheet.vue'
import type { Column } from '../shared/columns.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import { useSheetQuery } from '../shared/sheet-query.ts'

/** Who did what: of this engagement, or of the installation. */
const props = defineProps<{ ofInstallation?: boolean }>()
const sheet = useSheetQuery('log')
const { data, problem, loading } = props.ofInstallation
  ? useQuery(listInstallationActivity, () => ({ query: sheet.value }))
  : useQuery(listActivity, () => ({ query: sheet.value }))
const csv = computed(() => {
  const { limit: _, offset: __, ...asked } = sheet.value
  const query = asked as ActivityFilter
  return props.ofInstallation ? addressOf(exportInstallationActivity, { query }) : addressOf(exportActivity, { query })
})
const columns: Column<ActivityView['entries'][number]>[] = [
  { key: 'at', title: t('common.time'), value: ({ at }) => at, width: '140px' },
  { key: 'user', title: t('settings.user'), value: ({ user }) => user ?? '', width: '160px' },
  { key: 'words', title: t('common.action'), value: ({ words }) => words },
  { key: 'action', title: t('settings.kind'), value: ({ action }) => action, hidden: true },
]
</script>

<template>
  <section class="log">
    <h2>{{ $t('settings.auditLog') }}</h2>
    <ProblemNote :text="problem" />
    <template v-if="data">
      <p class="quiet" :class="{ broken: data.firstBreak !== null }">
        {{
          data.firstBreak === null
            ? $t('settings.theHashChainIsIntact')
            : $t('settings.theHashChainIsBroken', { firstBreak: data.firstBreak })
        }}
      </p>
      <ChainVerification v-if="!ofInstallation" />
      <DataSheet
        name="log"
        :label="$t('settings.logEntries')"
        :one="$t('settings.logEntry')"
        :rows="data.entries"
        :columns="columns"
        :remote="{ total: data.total, csv, busy: loading }"
        height="520px"
      >
        <template #at="{ row }"><AgeText :at="row.at" /></template>
      </DataSheet>
    </template>
  </section>
</template>

<style scoped>
.log {
  margin-top: 14px;
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}
.broken {
  color: rgb(var(--v-theme-fail));
  font-weight: 600;
}
</style>
