<script setup lang="ts">
import { useConfirm } from '../stores/confirm.ts'
import { type CredentialRow, addCredential, deleteCredential } from '@jurybox/api/collecting'
import { reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import { useAskedAction } from '../shared/asked-action.ts'
import AgeText from '../shared/AgeText.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'
import ActionButton from '../shared/ActionButton.vue'

const confirm = useConfirm()

/** Who may log in. A secret goes in and never comes out again. */
defineProps<{ credentials: readonly CredentialRow[] }>()
const emit = defineEmits<{ changed: [] }>()
const engagement = useEngagement()
const adding = ref(false)
useAskedAction('add-credential', () => engagement.may.manage && (adding.value = true))
const { problem, fields, attempt } = useAttempt(() => emit('changed'))
const blank = () => ({
  title: '',
  user: '',
  password: '',
  privileged: '',
  snmpUser: '',
  snmpAuth: '',
  snmpPrivacy: '',
  privateKey: '',
})
const form = reactive(blank())
async function add(): Promise<void> {
  const { privileged, snmpUser, snmpAuth, snmpPrivacy, privateKey, ...given } = form
  if (
    !(await attempt(() =>
      call(addCredential, {
        body: {
          ...given,
          ...(privileged ? { privileged } : {}),
          ...(privateKey.trim() ? { privateKey } : {}),
          ...(snmpUser ? { snmp: { user: snmpUser, auth: snmpAuth, privacy: snmpPrivacy } } : {}),
        },
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
    <h2>{{ $t('collect.credentials') }}</h2>
    <p class="quiet">{{ $t('collect.storedEncryptedAtMostThree') }}</p>
    <ProblemNote :text="problem" />
    <ol class="list">
      <li v-for="one in credentials" :key="one.id">
        <span
          ><b>{{ one.title }}</b> {{ one.user }} <span class="quiet"><AgeText :at="one.createdAt" /></span></span
        ><v-btn
          v-if="engagement.may.manage"
          size="small"
          variant="text"
          :aria-label="$t('collect.delete', { title: one.title })"
          @click="
            confirm.deletion($t('collect.kindCredential'), one.title, () =>
              attempt(() => call(deleteCredential, { params: { credential: one.id } })),
            )
          "
          >{{ $t('common.delete') }}</v-btn
        >
      </li>
    </ol>
    <p v-if="credentials.length === 0" class="quiet">{{ $t('collect.noCredentialsYet') }}</p>
    <form v-if="adding" class="form" autocomplete="off" @submit.prevent="add">
      <v-text-field v-model="form.title" :label="$t('common.title')" :error-messages="fields['title']" />
      <v-text-field
        v-model="form.user"
        :error-messages="fields['user']"
        :label="$t('collect.userOnTheDevices')"
        autocomplete="off"
      />
      <v-text-field
        v-model="form.password"
        :error-messages="fields['password']"
        :label="$t('common.password')"
        type="password"
        autocomplete="new-password"
      />
      <v-text-field
        v-model="form.privileged"
        :error-messages="fields['privileged']"
        :label="$t('collect.enablePasswordIfDifferent')"
        type="password"
        autocomplete="new-password"
      />
      <details class="more">
        <summary>{{ $t('collect.loginByKey') }}</summary>
        <v-textarea
          v-model="form.privateKey"
          :label="$t('collect.privateKey')"
          :hint="$t('collect.privateKeyHint')"
          :error-messages="fields['privateKey']"
          persistent-hint
          rows="4"
          spellcheck="false"
          autocomplete="off"
          class="code"
        />
      </details>
      <details class="more">
        <summary>{{ $t('collect.sNMPv3Credentials') }}</summary>
        <div class="form">
          <v-text-field
            v-model="form.snmpUser"
            :error-messages="fields['snmpUser']"
            :label="$t('collect.snmpUser')"
            autocomplete="off"
          /><v-text-field
            v-model="form.snmpAuth"
            :error-messages="fields['snmpAuth']"
            :label="$t('collect.authenticationPasswordSha256')"
            type="password"
            autocomplete="new-password"
          /><v-text-field
            v-model="form.snmpPrivacy"
            :error-messages="fields['snmpPrivacy']"
            :label="$t('collect.privacyPasswordAes128')"
            type="password"
            autocomplete="new-password"
          />
        </div>
      </details>
      <div>
        <ActionButton
          type="submit"
          variant="flat"
          :why="
            !form.title
              ? $t('collect.enterATitle')
              : !form.user
                ? $t('collect.enterTheUser')
                : form.password || form.privateKey
                  ? ''
                  : $t('collect.enterPasswordOrKey')
          "
          >{{ $t('common.save') }}</ActionButton
        >
        <v-btn variant="text" @click="adding = false">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
    <v-btn v-else-if="engagement.may.manage" size="small" @click="adding = true">{{
      $t('collect.addCredential')
    }}</v-btn>
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
