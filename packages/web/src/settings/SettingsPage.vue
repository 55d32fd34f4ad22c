<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { themeChoice, themeFor, type ThemeChoice } from '../theme.ts'
import { useConfirm } from '../stores/confirm.ts'
import { t } from '../messages/index.ts'
import { type MemberView, addMember, changeRole, listMembers, removeMember } from '@jurybox/api/engagements'
import type { Role } from '@jurybox/api/roles'
import { computed, reactive, ref } from 'vue'
import { useTheme } from 'vuetify'
import { call } from '../api/client.ts'
import { useToasts } from '../stores/toasts.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { keysAreOn, setKeys } from '../shared/keys.ts'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import { useSession } from '../stores/session.ts'
import AuditLog from './AuditLog.vue'
import TokenPanel from './TokenPanel.vue'
import PasswordForm from './PasswordForm.vue'
import SecondFactorPanel from './SecondFactorPanel.vue'
import SessionList from './SessionList.vue'

const confirm = useConfirm()

const engagement = useEngagement()
const session = useSession()
const theme = useTheme()
const { data, problem, fields, attempt: run } = useQuery(listMembers, () => ({}))
const members = computed(() => data.value ?? [])
const done = ref('')
const chosen = ref<ThemeChoice>(themeChoice())
const THEMES = [
  { value: 'system', title: t('settings.themeSystem') },
  { value: 'light', title: t('settings.themeLight') },
  { value: 'dark', title: t('settings.themeDark') },
]
const toasts = useToasts()
const ROLES: Role[] = ['lead', 'auditor', 'engineer', 'reader']
const added = reactive({ name: '', role: 'reader' as Role })

async function attempt(work: () => Promise<unknown>, words: string): Promise<void> {
  done.value = ''
  if (await run(work)) done.value = words
}

function setTheme(choice: ThemeChoice): void {
  chosen.value = choice
  localStorage.setItem('theme', choice)
  theme.change(themeFor(choice))
}
const notifies = ref('Notification' in window && Notification.permission === 'granted')
async function allowNotifications(): Promise<void> {
  notifies.value = (await Notification.requestPermission()) === 'granted'
}
const add = (): Promise<void> =>
  attempt(async () => {
    await call(addMember, { body: added })
    Object.assign(added, { name: '', role: 'reader' })
  }, t('settings.memberAdded'))
const setRole = (member: MemberView, role: Role): Promise<void> =>
  attempt(async () => {
    await call(changeRole, { params: { user: member.id }, body: { role } })
    toasts.show(t('settings.isNow', { fullName: member.fullName, role }), {
      action: { title: t('common.undo'), run: () => setRole({ ...member, role }, member.role) },
    })
  }, '')
async function remove(member: MemberView): Promise<void> {
  const { fullName } = member
  if (!(await confirm.ask({ title: t('settings.removeNamed', { fullName }), action: t('settings.removeMember') })))
    return
  await attempt(
    () => call(removeMember, { params: { user: member.id } }),
    t('settings.isNoLongerAMember', { fullName }),
  )
}
const memberColumns: Column<MemberView>[] = [
  { key: 'name', title: t('common.name'), value: ({ fullName, name }) => `${fullName} ${name}` },
  { key: 'role', title: t('common.role'), value: ({ role }) => role },
  { key: 'action', title: t('common.action'), value: () => '', acts: true },
]
</script>

<template>
  <div class="page">
    <div class="page-head">
      <h1 class="grow">{{ $t('settings.settings') }}</h1>
      <div v-if="session.view?.isAdmin" class="actions">
        <v-btn :to="`/e/${engagement.id}/installation`">{{ $t('settings.installation') }}</v-btn>
      </div>
    </div>
    <ProblemNote :text="problem" />
    <p role="status" class="quiet">{{ done }}</p>
    <div class="columns">
      <section class="panel block">
        <h2>{{ $t('settings.thisBrowser') }}</h2>
        <v-select
          :model-value="chosen"
          :items="THEMES"
          :label="$t('settings.theme')"
          class="theme"
          @update:model-value="setTheme"
        />
        <p v-if="notifies" class="quiet">{{ $t('settings.notificationsAreOn') }}</p>
        <v-btn v-else size="small" @click="allowNotifications">{{ $t('settings.allowNotifications') }}</v-btn>
        <v-checkbox
          :model-value="keysAreOn"
          :label="$t('settings.singleKeyShortcutsLN')"
          @update:model-value="(on) => setKeys(on === true)"
        />
      </section>
      <section class="panel block">
        <h2>{{ $t('common.password') }}</h2>
        <PasswordForm @changed="done = $t('settings.passwordChangedAllOtherSessions')" />
      </section>
      <section class="panel block"><SecondFactorPanel /></section>
      <section class="panel block"><SessionList /></section>
      <section class="panel block">
        <h2>{{ $t('settings.members') }}</h2>
        <DataTable name="members" :label="$t('common.name')" :rows="members" :columns="memberColumns">
          <template #name="{ row: member }">
            {{ member.fullName }} <span class="quiet">{{ member.name }}</span>
          </template>
          <template #role="{ row: member }">
            <v-select
              v-if="engagement.may.manage"
              class="role"
              :model-value="member.role"
              :items="ROLES"
              :aria-label="$t('settings.roleOf', { fullName: member.fullName })"
              @update:model-value="(role) => setRole(member, role)"
            /><span v-else>{{ member.role }}</span>
          </template>
          <template #action="{ row: member }">
            <v-btn
              v-if="engagement.may.manage"
              size="small"
              variant="text"
              :aria-label="$t('settings.remove', { fullName: member.fullName })"
              @click="remove(member)"
              >{{ $t('common.remove') }}</v-btn
            >
          </template>
        </DataTable>
        <form v-if="engagement.may.manage" class="form" @submit.prevent="add">
          <h3>{{ $t('settings.addMember') }}</h3>
          <v-text-field
            v-model="added.name"
            :error-messages="fields['name']"
            :label="$t('settings.signInNameOfThe')"
            autocomplete="off"
            required
          />
          <v-select v-model="added.role" :error-messages="fields['role']" :items="ROLES" :label="$t('common.role')" />
          <v-btn type="submit">{{ $t('settings.addMember') }}</v-btn>
        </form>
      </section>
    </div>
    <TokenPanel v-if="engagement.may.manage" />
    <AuditLog v-if="engagement.may.manage" />
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
.theme {
  max-width: 240px;
  margin: 8px 0;
}
</style>
