<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { useConfirm } from '../stores/confirm.ts'
import {
  type AccountView,
  changeAccount,
  createAccount,
  deleteAccount,
  listAccounts,
  resetAccount,
} from '@jurybox/api/accounts'
import { computed, reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import AgeText from '../shared/AgeText.vue'
import { t } from '../messages/index.ts'
import { useToasts } from '../stores/toasts.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useQuery } from '../shared/query.ts'
import AuditLog from './AuditLog.vue'
import KeyPanel from './KeyPanel.vue'

const confirm = useConfirm()

const toasts = useToasts()
const { data, problem, fields, load, attempt } = useQuery(listAccounts, () => ({}))
const accounts = computed(() => data.value ?? [])
/** A one-time password that was just made, and whose it is. */
const given = ref<{ name: string; password: string } | null>(null)
const added = reactive({ name: '', fullName: '', isAdmin: false, mayOpen: false })

const add = () =>
  attempt(async () => {
    const { password } = await call(createAccount, { body: added })
    given.value = { name: added.name, password }
    Object.assign(added, { name: '', fullName: '', isAdmin: false, mayOpen: false })
  })
const change = (account: AccountView, changed: Partial<AccountView>): Promise<boolean> =>
  attempt(async () => {
    const { isAdmin, mayOpen, disabled } = { ...account, ...changed }
    await call(changeAccount, { params: { account: account.id }, body: { isAdmin, mayOpen, disabled } })
    toasts.show(t('settings.accountChanged', { fullName: account.fullName }), {
      action: { title: t('common.undo'), run: () => change({ ...account, ...changed }, account) },
    })
  })
async function reset(account: AccountView): Promise<void> {
  const question = {
    title: t('settings.resetNamed', { fullName: account.fullName }),
    text: t('settings.resetEndsSessions'),
    action: t('settings.resetPassword'),
  }
  if (!(await confirm.ask(question))) return
  await attempt(async () => {
    const { password } = await call(resetAccount, { params: { account: account.id } })
    given.value = { name: account.name, password }
  })
}
const remove = (account: AccountView): Promise<void> =>
  confirm.deletion(t('settings.kindAccount'), account.fullName, () =>
    attempt(() => call(deleteAccount, { params: { account: account.id } })),
  )
const columns: Column<AccountView>[] = [
  { key: 'name', title: t('common.name'), value: ({ fullName, name }) => `${fullName} ${name}` },
  { key: 'seen', title: t('settings.lastSignIn'), value: ({ signedInAt }) => signedInAt ?? '' },
  { key: 'engagements', title: t('common.engagements'), value: ({ engagements }) => engagements, numeric: true },
  {
    key: 'factor',
    title: t('settings.secondFactor'),
    value: ({ hasSecondFactor }) => (hasSecondFactor ? 'on' : 'off'),
  },
  { key: 'admin', title: t('settings.administrator'), value: ({ isAdmin }) => (isAdmin ? 'yes' : 'no') },
  { key: 'opens', title: t('settings.canOpenEngagements'), value: ({ mayOpen }) => (mayOpen ? 'yes' : 'no') },
  { key: 'actions', title: t('common.actions'), value: () => '', acts: true },
]
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1 class="grow">{{ $t('settings.installation') }}</h1>
    </div>
    <ProblemNote :text="problem" />
    <section v-if="given" class="panel block" role="status">
      <p>
        {{ $t('settings.oneTimePasswordOf') }} <strong>{{ given.name }}</strong>:
        <span class="mono once">{{ given.password }}</span>
      </p>
      <p class="quiet">
        {{ $t('settings.handItOverInPerson') }}
      </p>
      <v-btn @click="given = null">{{ $t('common.close') }}</v-btn>
    </section>
    <section class="panel block">
      <h2>{{ $t('settings.accounts') }}</h2>
      <DataTable
        name="accounts"
        :label="$t('common.name')"
        :rows="accounts"
        :columns="columns"
        :row-class="({ disabled }) => ({ off: disabled })"
      >
        <template #name="{ row: account }">
          {{ account.fullName }}
          <span class="quiet"
            >{{ account.name
            }}{{
              account.disabled ? $t('settings.disabled') : account.mustChange ? $t('settings.oneTimePassword') : ''
            }}</span
          >
        </template>
        <template #seen="{ row: account }">
          <AgeText v-if="account.signedInAt" :at="account.signedInAt" /><span v-else>{{ $t('common.never') }}</span>
        </template>
        <template #admin="{ row: account }">
          <v-checkbox
            density="compact"
            hide-details
            :model-value="account.isAdmin"
            :aria-label="$t('settings.isAnAdministrator', { fullName: account.fullName })"
            @update:model-value="(on: boolean | null) => change(account, { isAdmin: on === true })"
          />
        </template>
        <template #opens="{ row: account }">
          <v-checkbox
            density="compact"
            hide-details
            :model-value="account.mayOpen"
            :aria-label="$t('settings.personCanOpenEngagements', { fullName: account.fullName })"
            @update:model-value="(on: boolean | null) => change(account, { mayOpen: on === true })"
          />
        </template>
        <template #actions="{ row: account }">
          <div class="acts">
            <v-btn size="small" variant="text" @click="reset(account)">{{ $t('settings.resetPassword') }}</v-btn>
            <v-btn size="small" variant="text" @click="change(account, { disabled: !account.disabled })">{{
              account.disabled ? $t('settings.enable') : $t('settings.disable')
            }}</v-btn>
            <v-btn v-if="account.signedInAt === null" size="small" variant="text" @click="remove(account)">{{
              $t('common.delete')
            }}</v-btn>
          </div>
        </template>
      </DataTable>
    </section>
    <section class="panel block">
      <h2>{{ $t('settings.createAccount') }}</h2>
      <form class="form" @submit.prevent="add">
        <v-text-field
          v-model="added.fullName"
          :error-messages="fields['fullName']"
          :label="$t('settings.fullName')"
          required
        />
        <v-text-field
          v-model="added.name"
          :error-messages="fields['name']"
          :label="$t('settings.signInName')"
          autocomplete="off"
          required
        />
        <v-checkbox v-model="added.mayOpen" :label="$t('settings.canOpenEngagements')" />
        <v-checkbox v-model="added.isAdmin" :label="$t('settings.administrator')" />
        <v-btn type="submit" variant="flat">{{ $t('settings.createAccount') }}</v-btn>
      </form>
    </section>
    <KeyPanel @changed="load" />
    <AuditLog of-installation />
  </div>
</template>

<style scoped>
.block {
  padding: 14px 18px;
  margin-top: 14px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
  justify-items: start;
}
.block > .data-table {
  width: 100%;
}
.block table {
  width: 100%;
}
.form {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  width: 100%;
}
.form .v-text-field {
  flex: 1 1 200px;
}
.once {
  font-size: 16px;
  user-select: all;
}
.rows td {
  vertical-align: middle;
}
.off td {
  color: rgb(var(--v-theme-quiet));
}
.acts {
  white-space: nowrap;
}
.number {
  text-align: right;
}
</style>
