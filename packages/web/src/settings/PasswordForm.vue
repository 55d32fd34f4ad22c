<script setup lang="ts">
import { t } from '../messages/index.ts'
import { changePassword } from '@jurybox/api/sessions'
import { reactive, ref } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useSession } from '../stores/session.ts'

withDefaults(defineProps<{ currentLabel?: string }>(), { currentLabel: t('settings.currentPassword') })
const emit = defineEmits<{ changed: [] }>()
const session = useSession()
const form = reactive({ current: '', next: '', code: '' })
const { problem, fields, attempt } = useAttempt()
const isBusy = ref(false)

async function change(): Promise<void> {
  isBusy.value = true
  const { current, next, code } = form
  const body = { current, next, ...(code === '' ? {} : { code }) }
  if (await attempt(() => call(changePassword, { body }))) {
    Object.assign(form, { current: '', next: '', code: '' })
    emit('changed')
  }
  isBusy.value = false
}
</script>

<template>
  <form class="form" @submit.prevent="change">
    <input
      type="text"
      class="sr"
      autocomplete="username"
      :value="session.view?.user.name"
      tabindex="-1"
      aria-hidden="true"
      readonly
    />
    <v-text-field
      v-model="form.current"
      :error-messages="fields['current']"
      type="password"
      :label="currentLabel"
      autocomplete="current-password"
      required
    />
    <v-text-field
      v-if="session.view?.hasSecondFactor"
      v-model="form.code"
      :error-messages="fields['code']"
      :label="$t('settings.codeOfYourSecondFactor')"
      autocomplete="one-time-code"
      required
    />
    <v-text-field
      v-model="form.next"
      :error-messages="fields['next']"
      type="password"
      :label="$t('settings.newPasswordAtLeast15')"
      autocomplete="new-password"
      required
    />
    <ProblemNote :text="problem" />
    <v-btn type="submit" :loading="isBusy">{{ $t('settings.changePassword') }}</v-btn>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 10px;
  justify-items: stretch;
  margin-top: 6px;
}
.form .v-btn {
  justify-self: start;
}
</style>
