<script setup lang="ts">
import { getStanding } from '@jurybox/api/sessions'
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { ApiError, wordsOf, call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { vFocus } from '../shared/focus.ts'
import { useSession } from '../stores/session.ts'
import SignInLayout from './SignInLayout.vue'

const session = useSession()
const route = useRoute()
const router = useRouter()
const name = ref('')
const password = ref('')
/** Null until it is asked for. */
const code = ref<string | null>(null)
const problem = ref('')
const busy = ref(false)

onMounted(async () => {
  try {
    if ((await call(getStanding)).firstUserNeeded) await router.replace('/first-user')
  } catch (error) {
    problem.value = wordsOf(error)
  }
})

async function signIn(): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await session.signIn(name.value, password.value, code.value ?? undefined)
    // Only a place within this application is a place to go back to.
    const to = String(route.query['to'] ?? '/')
    await router.replace(/^\/(?!\/)/.test(to) ? to : '/')
  } catch (error) {
    const asksForCode = error instanceof ApiError && error.code === 'second-factor-needed'
    if (!asksForCode || code.value !== null) problem.value = wordsOf(error)
    if (asksForCode) code.value = ''
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <SignInLayout>
    <h1>{{ $t('signIn.signIn') }}</h1>
    <form @submit.prevent="signIn">
      <v-text-field v-model="name" v-focus :label="$t('signIn.signInName')" autocomplete="username" required />
      <v-text-field
        v-model="password"
        :label="$t('common.password')"
        type="password"
        autocomplete="current-password"
        required
      />
      <v-text-field
        v-if="code !== null"
        v-model="code"
        v-focus
        :label="$t('signIn.codeOfYourSecondFactor')"
        autocomplete="one-time-code"
        required
      />
      <ProblemNote :text="problem" />
      <v-btn type="submit" variant="flat" :loading="busy" block>{{ $t('signIn.signIn') }}</v-btn>
    </form>
  </SignInLayout>
</template>
