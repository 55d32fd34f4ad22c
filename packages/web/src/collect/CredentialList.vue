<script setup lang="ts">
import { reactive, ref } from 'vue'
import { api } from '../api/client.ts'
import type { CredentialRow } from '../api/types.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'

/** Who may log in. A secret goes in and never comes out again. */
defineProps<{ credentials: readonly CredentialRow[] }>()
const emit = defineEmits<{ changed: [] }>()
const engagement = useEngagement()
const adding = ref(false)
const { problem, attempt } = useAttempt(() => emit('changed'))
const blank = () => ({ title: '', user: '', password: '', privileged: '', snmpUser: '', snmpAuth: '', snmpPrivacy: '' })
const form = reactive(blank())
async function add(): Promise<void> {
  const { privileged, snmpUser, snmpAuth, snmpPrivacy, ...given } = form
  if (
    !(await attempt(() =>
      api.post(`${engagement.base}/credentials`, {
        ...given,
        ...(privileged ? { privileged } : {}),
        ...(snmpUser ? { snmp: { user: snmpUser, auth: snmpAuth, privacy: snmpPrivacy } } : {}),
      }),
    ))
  )
    return
  Object.assign(form, blank())
  adding.value = false
}
</script>

<template>
  <section class="panel block">
    <h2>Credentials</h2>
    <p class="quiet">Kept sealed; tried in this order, three at most on a device, the one that fitted last first.</p>
    <ProblemNote :text="problem" />
    <ol class="list">
      <li v-for="one in credentials" :key="one.id">
        <span
          ><b>{{ one.title }}</b> {{ one.user }} <span class="quiet"><AgeText :at="one.createdAt" /></span></span
        ><v-btn
          v-if="engagement.may.manage"
          size="small"
          variant="text"
          :aria-label="`Remove ${one.title}`"
          @click="attempt(() => api.delete(`${engagement.base}/credentials/${one.id}`))"
          >Remove</v-btn
        >
      </li>
    </ol>
    <p v-if="credentials.length === 0" class="quiet">There is none yet.</p>
    <form v-if="adding" class="form" autocomplete="off" @submit.prevent="add">
      <v-text-field v-model="form.title" label="Title" />
      <v-text-field v-model="form.user" label="User on the devices" autocomplete="off" />
      <v-text-field v-model="form.password" label="Password" type="password" autocomplete="new-password" />
      <v-text-field
        v-model="form.privileged"
        label="Word for more rights, if another"
        type="password"
        autocomplete="new-password"
      />
      <details class="more">
        <summary>Other words for SNMPv3</summary>
        <div class="form">
          <v-text-field v-model="form.snmpUser" label="SNMP user" autocomplete="off" /><v-text-field
            v-model="form.snmpAuth"
            label="For authentication (SHA-256)"
            type="password"
            autocomplete="new-password"
          /><v-text-field
            v-model="form.snmpPrivacy"
            label="For privacy (AES-128)"
            type="password"
            autocomplete="new-password"
          />
        </div>
      </details>
      <div>
        <v-btn type="submit" variant="flat" :disabled="!form.title || !form.user || !form.password">Keep it</v-btn>
        <v-btn variant="text" @click="adding = false">Leave</v-btn>
      </div>
    </form>
    <v-btn v-else-if="engagement.may.manage" size="small" @click="adding = true">Add a credential</v-btn>
  </section>
</template>

<style scoped>
.block {
  padding: 14px 16px;
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
  justify-items: start;
}
.list {
  margin: 0;
  padding: 0;
  list-style: none;
  width: 100%;
}
.list li {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
summary {
  cursor: pointer;
  min-height: 24px;
}
.more .form {
  padding-top: 8px;
}
.form {
  display: grid;
  gap: 10px;
  width: 100%;
}
</style>
