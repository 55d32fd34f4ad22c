<script setup lang="ts">
import { createFirstUser } from '@jurybox/api/sessions'
import { reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { vFocus } from '../shared/focus.ts'
import { useSession } from '../stores/session.ts'
import SignInLayout from './SignInLayout.vue'

const session = useSession()
const router = useRouter()
const { problem, fields, attempt } = useAttempt()
const busy = ref(false)
const form = reactive({ code: '', name: '', fullName: '', password: '', title: '', client: '' })

async function create(): Promise<void> {
  busy.value = true
  await attempt(async () => {
    await call(createFirstUser, {
      body: {
        code: form.code,
        user: { name: form.name, fullName: form.fullName, password: form.password },
        engagement: { title: form.title, client: form.client },
      },
    })
    await session.ask()
    const [own] = session.view?.engagements ?? []
    await router.replace(own ? `/e/${own.id}/overview` : '/')
  })
  busy.value = false
}
</script>

<template>
  <SignInLayout>
    <h1>{{ $t('signIn.firstUser') }}</h1>
    <form @submit.prevent="create">
      <v-text-field
        v-model="form.code"
        :error-messages="fields['code']"
        v-focus
        :label="$t('signIn.oneTimeCodePrintedBy')"
        autocomplete="one-time-code"
        required
      />
      <v-text-field
        v-model="form.fullName"
        :error-messages="fields['user.fullName']"
        :label="$t('signIn.yourFullName')"
        autocomplete="name"
        required
      />
      <v-text-field
        v-model="form.name"
        :error-messages="fields['user.name']"
        :label="$t('signIn.signInName')"
        autocomplete="username"
        required
      />
      <v-text-field
        v-model="form.password"
        :error-messages="fields['user.password']"
        :label="$t('signIn.passwordAtLeast15Characters')"
        type="password"
        autocomplete="new-password"
        required
      />
      <v-text-field
        v-model="form.title"
        :error-messages="fields['engagement.title']"
        :label="$t('signIn.firstEngagement')"
        required
      />
      <v-text-field v-model="form.client" :error-messages="fields['engagement.client']" :label="$t('signIn.client')" />
      <ProblemNote :text="problem" />
      <v-btn type="submit" variant="flat" :loading="busy" block>{{ $t('signIn.createAndSignIn') }}</v-btn>
    </form>
  </SignInLayout>
</template>
