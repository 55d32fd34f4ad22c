<script setup lang="ts">
import { DATA_TABLES, addToken, listTokens, revokeToken, type DataTable, type TokenView } from '@jurybox/api/data'
import { reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import { t } from '../messages/index.ts'
import DataTableView from '../shared/DataTable.vue'
import ModalDialog from '../shared/ModalDialog.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import type { Column } from '../shared/columns.ts'
import { useQuery } from '../shared/query.ts'
import { absoluteTime } from '../shared/time.ts'

/** Tokens by which other tools read tables of the engagement. */
const { data: tokens, problem, fields, attempt } = useQuery(listTokens, () => ({}))
const TABLES: Readonly<Record<DataTable, string>> = {
  findings: t('settings.tableFindings'),
  verdicts: t('settings.tableVerdicts'),
  devices: t('settings.tableDevices'),
  requirements: t('settings.tableRequirements'),
  trend: t('settings.tableTrend'),
}
const tables = DATA_TABLES.map((value) => ({ value, title: TABLES[value] }))
const adding = ref(false)
const made = ref('')
const form = reactive({ title: '', tables: ['findings'] as DataTable[], days: 90 })
const add = () =>
  attempt(async () => {
    made.value = (await call(addToken, { body: { ...form, days: Number(form.days) } })).token
    adding.value = false
  })
const columns: Column<TokenView>[] = [
  { key: 'title', title: t('settings.tokenTitle'), value: ({ title }) => title },
  { key: 'begins', title: t('settings.tokenBegins'), value: ({ begins }) => `${begins}…` },
  {
    key: 'tables',
    title: t('settings.tokenTables'),
    value: (one) => one.tables.map((name) => TABLES[name]).join(', '),
  },
  { key: 'until', title: t('settings.tokenUntil'), value: ({ expiresAt }) => absoluteTime(expiresAt) },
  {
    key: 'used',
    title: t('settings.tokenUsed'),
    value: ({ usedAt }) => (usedAt === null ? t('settings.never') : absoluteTime(usedAt)),
  },
  { key: 'by', title: t('settings.user'), value: ({ by }) => by },
  { key: 'actions', title: t('settings.tokenActions'), value: () => '', acts: true },
]
</script>

<template>
  <section class="panel tokens">
    <h2>{{ $t('settings.tokens') }}</h2>
    <p class="quiet">{{ $t('settings.tokensNote') }}</p>
    <ProblemNote :text="adding ? '' : problem" />
    <p v-if="made" role="status">
      {{ $t('settings.tokenOnce') }} <code>{{ made }}</code>
    </p>
    <DataTableView
      v-if="tokens && tokens.length > 0"
      :label="$t('settings.tokens')"
      :rows="tokens"
      :columns="columns"
      :row-key="({ id }) => id"
    >
      <template #actions="{ row }">
        <v-btn
          size="small"
          variant="text"
          :aria-label="$t('settings.revokeToken', { title: row.title })"
          @click="attempt(() => call(revokeToken, { params: { token: row.id } }))"
          >{{ $t('settings.revoke') }}</v-btn
        >
      </template>
    </DataTableView>
    <p>
      <v-btn size="small" @click="adding = true">{{ $t('settings.addToken') }}</v-btn>
    </p>
    <ModalDialog v-model="adding" :title="$t('settings.addToken')">
      <ProblemNote :text="problem" />
      <div class="form-fields">
        <v-text-field
          v-model="form.title"
          :label="$t('settings.tokenTitle')"
          :error-messages="fields['title']"
          maxlength="120"
        />
        <v-select v-model="form.tables" :items="tables" multiple chips :label="$t('settings.tokenTables')" />
        <v-text-field
          v-model="form.days"
          type="number"
          min="1"
          max="366"
          :label="$t('settings.tokenDays')"
          :error-messages="fields['days']"
        />
      </div>
      <template #actions>
        <v-btn variant="text" @click="adding = false">{{ $t('common.cancel') }}</v-btn>
        <v-btn variant="flat" :disabled="form.title.trim() === '' || form.tables.length === 0" @click="add">{{
          $t('settings.addToken')
        }}</v-btn>
      </template>
    </ModalDialog>
  </section>
</template>

<style scoped>
.tokens {
  padding: 14px 16px;
  margin-top: 14px;
  display: grid;
  gap: 8px;
}
code {
  overflow-wrap: anywhere;
}
</style>
