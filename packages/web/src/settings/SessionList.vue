<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import { useConfirm } from '../stores/confirm.ts'
import { type SessionRow, endOtherSessions, listSessions } from '@jurybox/api/sessions'
import { computed } from 'vue'
import { call } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'

const confirm = useConfirm()

const { data, problem, attempt } = useQuery(listSessions, () => ({}))
const sessions = computed(() => data.value ?? [])
async function endOthers(): Promise<void> {
  if (!(await confirm.ask({ title: t('settings.endOtherSessions'), action: t('settings.signOutEverywhereElse') })))
    return
  await attempt(() => call(endOtherSessions))
}

/** The name of a browser and its system, as far as it says them. */
function browserOf(agent: string): string {
  const program =
    /(Firefox|Edg|Chrome|Safari)\/\d+/.exec(agent)?.[0].replace('Edg', 'Edge').replace('/', ' ') ??
    agent.split(' ')[0] ??
    ''
  const system = /Windows|Mac OS X|Android|Linux|iPhone/.exec(agent)?.[0]
  return [program === '' ? 'unknown browser' : program, system].filter(Boolean).join(' on ')
}
const columns: Column<SessionRow>[] = [
  { key: 'browser', title: t('settings.browser'), value: ({ agent }) => browserOf(agent) },
  { key: 'address', title: t('settings.address'), value: ({ address }) => address, mono: true },
  { key: 'seen', title: t('settings.lastSeen'), value: ({ seenAt }) => seenAt },
]
</script>

<template>
  <div class="sessions">
    <h2>{{ $t('settings.sessions') }}</h2>
    <DataTable name="sessions" :label="$t('settings.browser')" :rows="sessions" :columns="columns">
      <template #browser="{ row: one }">
        {{ browserOf(one.agent) }}<span v-if="one.isThis" class="quiet">{{ ' ' }}{{ $t('settings.thisOne') }}</span>
      </template>
      <template #seen="{ row: one }"><AgeText :at="one.seenAt" /></template>
    </DataTable>
    <p class="quiet">{{ $t('settings.aSessionEndsAfter8') }}</p>
    <ProblemNote :text="problem" />
    <v-btn :disabled="sessions.length < 2" @click="endOthers">{{ $t('settings.signOutEverywhereElse') }}</v-btn>
  </div>
</template>

<style scoped>
.sessions {
  display: grid;
  gap: 8px;
  justify-items: start;
}
table {
  width: 100%;
}
</style>
