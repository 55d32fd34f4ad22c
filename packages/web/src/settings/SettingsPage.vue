<script setup lang="ts">
import { onMounted, reactive, ref } from 'vue'
import { useTheme } from 'vuetify'
import { api, wordsOf } from '../api/client.ts'
import type { ActivityView, MemberView, Role } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { keysAreOn, setKeys } from '../shared/keys.ts'
import { useEngagement } from '../stores/engagement.ts'

const engagement = useEngagement()
const theme = useTheme()
const members = ref<MemberView[]>([])
const activity = ref<ActivityView | null>(null)
const problem = ref('')
const done = ref('')
const night = ref(theme.global.name.value === 'night')
const ROLES: Role[] = ['lead', 'auditor', 'engineer', 'reader']
const added = reactive({ name: '', fullName: '', password: '', role: 'reader' as Role })
const own = reactive({ current: '', next: '' })

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
    await api.post(`${engagement.base}/members`, { user: { name: added.name, fullName: added.fullName, password: added.password }, role: added.role })
    Object.assign(added, { name: '', fullName: '', password: '', role: 'reader' })
  }, 'The member was added.')
const setRole = (member: MemberView, role: Role): Promise<void> => attempt(() => api.put(`${engagement.base}/members/${member.id}`, { role }), `${member.fullName} is now ${role}.`)
const setPassword = (): Promise<void> =>
  attempt(async () => {
    await api.put('/password', own)
    Object.assign(own, { current: '', next: '' })
  }, 'The password was changed.')
</script>

<template>
  <div class="page">
    <div class="page-head"><h1 class="grow">Settings</h1></div>
    <ProblemNote :text="problem" />
    <p role="status" class="quiet">{{ done }}</p>
    <div class="columns">
      <section class="panel block">
        <h2>This browser</h2>
        <v-checkbox :model-value="night" label="Night session (dark)" @update:model-value="(on) => setNight(on === true)" />
        <v-checkbox :model-value="keysAreOn" label="Keys without a modifier (L, N, P, G, V)" @update:model-value="(on) => setKeys(on === true)" />
        <h2>Your password</h2>
        <form class="form" @submit.prevent="setPassword">
          <v-text-field v-model="own.current" type="password" label="Current password" autocomplete="current-password" required />
          <v-text-field v-model="own.next" type="password" label="New password, at least 12 characters" autocomplete="new-password" required />
          <v-btn type="submit">Change it</v-btn>
        </form>
      </section>
      <section class="panel block">
        <h2>Who takes part</h2>
        <table class="rows">
          <thead><tr><th scope="col">Name</th><th scope="col">Role</th></tr></thead>
          <tbody>
            <tr v-for="member in members" :key="member.id">
              <td>{{ member.fullName }} <span class="quiet">{{ member.name }}</span></td>
              <td><v-select v-if="engagement.may.manage" :model-value="member.role" :items="ROLES" :aria-label="`Role of ${member.fullName}`" @update:model-value="(role) => setRole(member, role)" /><span v-else>{{ member.role }}</span></td>
            </tr>
          </tbody>
        </table>
        <form v-if="engagement.may.manage" class="form" @submit.prevent="add">
          <h3>Add a person</h3>
          <v-text-field v-model="added.fullName" label="Full name" required /><v-text-field v-model="added.name" label="Name to sign in with" autocomplete="off" required />
          <v-text-field v-model="added.password" type="password" label="First password, at least 12 characters" autocomplete="new-password" required />
          <v-select v-model="added.role" :items="ROLES" label="Role" />
          <v-btn type="submit">Add</v-btn>
        </form>
      </section>
    </div>
    <section v-if="activity" class="panel block wide">
      <h2>What was done</h2>
      <p class="quiet">{{ activity.firstBreak === null ? 'The chain of entries is whole.' : `The chain is broken at entry ${activity.firstBreak}.` }} {{ activity.total }} entries in this engagement.</p>
      <table class="rows">
        <thead><tr><th scope="col">When</th><th scope="col">Who</th><th scope="col">What</th><th scope="col">Detail</th></tr></thead>
        <tbody><tr v-for="entry in activity.entries" :key="entry.id"><td><AgeText :at="entry.at" /></td><td>{{ entry.user ?? '—' }}</td><td>{{ entry.action }}</td><td class="mono detail">{{ JSON.stringify(entry.detail) }}</td></tr></tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.columns { display: grid; grid-template-columns: repeat(auto-fit, minmax(340px, 1fr)); gap: 14px; align-items: start; }
.block { padding: 14px 18px; display: grid; gap: 8px; align-content: start; }
.form { display: grid; gap: 10px; justify-items: stretch; margin-top: 6px; }
.form .v-btn { justify-self: start; }
.wide { margin-top: 14px; }
.detail { overflow-wrap: anywhere; }
</style>
