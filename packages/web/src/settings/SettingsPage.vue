<script setup lang="ts">
import { onMounted, reactive, ref } from 'vue'
import { useTheme } from 'vuetify'
import { api, wordsOf } from '../api/client.ts'
import type { ActivityView, MemberView, Role } from '../api/types.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { keysAreOn, setKeys } from '../shared/keys.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useSession } from '../stores/session.ts'
import AuditLog from './AuditLog.vue'
import PasswordForm from './PasswordForm.vue'
import SecondFactorPanel from './SecondFactorPanel.vue'
import SessionList from './SessionList.vue'

const engagement = useEngagement()
const session = useSession()
const theme = useTheme()
const members = ref<MemberView[]>([])
const activity = ref<ActivityView | null>(null)
const problem = ref('')
const done = ref('')
const night = ref(theme.global.name.value === 'night')
const ROLES: Role[] = ['lead', 'auditor', 'engineer', 'reader']
const added = reactive({ name: '', role: 'reader' as Role })

async function load(): Promise<void> {
  members.value = await api.get<MemberView[]>(`${engagement.base}/members`)
  if (engagement.may.manage) activity.value = await api.get<ActivityView>(`${engagement.base}/activity`)
}
async function attempt(work: () => Promise<unknown>, words: string): Promise<void> {
  problem.value = ''
  done.value = ''
  try {
    await work()
    done.value = words
    await load()
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
onMounted(() => attempt(load, ''))

function setNight(on: boolean): void {
  night.value = on
  theme.change(on ? 'night' : 'light')
  localStorage.setItem('theme', on ? 'night' : 'light')
}
const add = (): Promise<void> =>
  attempt(async () => {
    await api.post(`${engagement.base}/members`, added)
    Object.assign(added, { name: '', role: 'reader' })
  }, 'The member was added.')
const setRole = (member: MemberView, role: Role): Promise<void> =>
  attempt(() => api.put(`${engagement.base}/members/${member.id}`, { role }), `${member.fullName} is now ${role}.`)
const remove = (member: MemberView): Promise<void> =>
  attempt(() => api.delete(`${engagement.base}/members/${member.id}`), `${member.fullName} is no longer a member.`)
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1 class="grow">Settings</h1>
      <div v-if="session.view?.isAdmin" class="actions">
        <v-btn :to="`/e/${engagement.id}/installation`">Installation</v-btn>
      </div>
    </div>
    <ProblemNote :text="problem" />
    <p role="status" class="quiet">{{ done }}</p>
    <div class="columns">
      <section class="panel block">
        <h2>This browser</h2>
        <v-checkbox :model-value="night" label="Dark theme" @update:model-value="(on) => setNight(on === true)" />
        <v-checkbox
          :model-value="keysAreOn"
          label="Keys without a modifier (L, N, P, G, V)"
          @update:model-value="(on) => setKeys(on === true)"
        />
      </section>
      <section class="panel block">
        <h2>Password</h2>
        <PasswordForm @changed="done = 'The password was changed. Every other session of your account has ended.'" />
      </section>
      <section class="panel block"><SecondFactorPanel /></section>
      <section class="panel block"><SessionList /></section>
      <section class="panel block">
        <h2>Members</h2>
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">Name</th>
              <th scope="col">Role</th>
              <th v-if="engagement.may.manage" scope="col">Action</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="member in members" :key="member.id">
              <td>
                {{ member.fullName }} <span class="quiet">{{ member.name }}</span>
              </td>
              <td class="role">
                <v-select
                  v-if="engagement.may.manage"
                  :model-value="member.role"
                  :items="ROLES"
                  :aria-label="`Role of ${member.fullName}`"
                  @update:model-value="(role) => setRole(member, role)"
                /><span v-else>{{ member.role }}</span>
              </td>
              <td v-if="engagement.may.manage">
                <v-btn size="small" variant="text" :aria-label="`Remove ${member.fullName}`" @click="remove(member)"
                  >Remove</v-btn
                >
              </td>
            </tr>
          </tbody>
        </table>
        <form v-if="engagement.may.manage" class="form" @submit.prevent="add">
          <h3>Add a member</h3>
          <v-text-field v-model="added.name" label="Sign-in name of the account" autocomplete="off" required />
          <v-select v-model="added.role" :items="ROLES" label="Role" />
          <v-btn type="submit">Add member</v-btn>
        </form>
      </section>
    </div>
    <AuditLog v-if="activity" :activity="activity" of="in this engagement" />
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(420px, 1fr));
  gap: 14px;
  align-items: start;
}
.block {
  padding: 14px 18px;
  display: grid;
  gap: 8px;
  align-content: start;
}
.form {
  display: grid;
  gap: 10px;
  justify-items: stretch;
  margin-top: 6px;
}
.form .v-btn {
  justify-self: start;
}
.role {
  min-width: 140px;
}
</style>
