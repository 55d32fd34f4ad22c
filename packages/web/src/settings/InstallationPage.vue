<script setup lang="ts">
import { onMounted, reactive, ref } from 'vue'
import { api, wordsOf } from '../api/client.ts'
import type { AccountView, ActivityView } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import AuditLog from './AuditLog.vue'
import KeyPanel from './KeyPanel.vue'

const accounts = ref<AccountView[]>([])
const activity = ref<ActivityView | null>(null)
const problem = ref('')
/** A one-time password that was just made, and whose it is. */
const given = ref<{ name: string; password: string } | null>(null)
const added = reactive({ name: '', fullName: '', isAdmin: false, mayOpen: false })

async function load(): Promise<void> {
  accounts.value = await api.get<AccountView[]>('/accounts')
  activity.value = await api.get<ActivityView>('/activity')
}
async function attempt(work: () => Promise<unknown>): Promise<void> {
  problem.value = ''
  try {
    await work()
    await load()
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(() => attempt(() => Promise.resolve()))

const add = (): Promise<void> =>
  attempt(async () => {
    const { password } = await api.post<{ password: string }>('/accounts', added)
    given.value = { name: added.name, password }
    Object.assign(added, { name: '', fullName: '', isAdmin: false, mayOpen: false })
  })
const change = (account: AccountView, changed: Partial<AccountView>): Promise<void> =>
  attempt(() => {
    const { isAdmin, mayOpen, disabled } = { ...account, ...changed }
    return api.put(`/accounts/${account.id}`, { isAdmin, mayOpen, disabled })
  })
const reset = (account: AccountView): Promise<void> =>
  attempt(async () => {
    given.value = {
      name: account.name,
      password: (await api.post<{ password: string }>(`/accounts/${account.id}/reset`)).password,
    }
  })
const remove = (account: AccountView): Promise<void> => attempt(() => api.delete(`/accounts/${account.id}`))
</script>

<template>
  <div class="page">
    <div class="page-head"><h1 class="grow">Installation</h1></div>
    <ProblemNote :text="problem" />
    <section v-if="given" class="panel block" role="status">
      <p>
        One-time password of <strong>{{ given.name }}</strong>: <span class="mono once">{{ given.password }}</span>
      </p>
      <p class="quiet">
        Hand it over in person or by telephone. It is not shown again, and has to be changed at the first sign-in.
      </p>
      <v-btn @click="given = null">Close</v-btn>
    </section>
    <section class="panel block">
      <h2>Accounts</h2>
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">Last sign-in</th>
            <th scope="col">Engagements</th>
            <th scope="col">Second factor</th>
            <th scope="col">Administrator</th>
            <th scope="col">Opens engagements</th>
            <th scope="col">Actions</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="account in accounts" :key="account.id" :class="{ off: account.disabled }">
            <td>
              {{ account.fullName }}
              <span class="quiet"
                >{{ account.name
                }}{{ account.disabled ? ' · disabled' : account.mustChange ? ' · one-time password' : '' }}</span
              >
            </td>
            <td><AgeText v-if="account.signedInAt" :at="account.signedInAt" /><span v-else>never</span></td>
            <td class="number">{{ account.engagements }}</td>
            <td>{{ account.hasSecondFactor ? 'on' : 'off' }}</td>
            <td>
              <v-checkbox
                density="compact"
                hide-details
                :model-value="account.isAdmin"
                :aria-label="`${account.fullName} is an administrator`"
                @update:model-value="(on) => change(account, { isAdmin: on === true })"
              />
            </td>
            <td>
              <v-checkbox
                density="compact"
                hide-details
                :model-value="account.mayOpen"
                :aria-label="`${account.fullName} opens engagements`"
                @update:model-value="(on) => change(account, { mayOpen: on === true })"
              />
            </td>
            <td class="acts">
              <v-btn size="small" variant="text" @click="reset(account)">Reset password</v-btn>
              <v-btn size="small" variant="text" @click="change(account, { disabled: !account.disabled })">{{
                account.disabled ? 'Enable' : 'Disable'
              }}</v-btn>
              <v-btn v-if="account.signedInAt === null" size="small" variant="text" @click="remove(account)"
                >Delete</v-btn
              >
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <section class="panel block">
      <h2>New account</h2>
      <form class="form" @submit.prevent="add">
        <v-text-field v-model="added.fullName" label="Full name" required />
        <v-text-field v-model="added.name" label="Sign-in name" autocomplete="off" required />
        <v-checkbox v-model="added.mayOpen" label="Opens engagements" />
        <v-checkbox v-model="added.isAdmin" label="Administrator" />
        <v-btn type="submit" variant="flat">Create account</v-btn>
      </form>
    </section>
    <KeyPanel @changed="load" />
    <AuditLog v-if="activity" :activity="activity" of="outside engagements" />
  </div>
</template>

<style scoped>
.block {
  padding: 14px 18px;
  margin-top: 14px;
  display: grid;
  gap: 8px;
  justify-items: start;
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
