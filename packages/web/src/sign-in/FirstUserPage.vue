<script setup lang="ts">
import { reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, wordsOf } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { vFocus } from '../shared/focus.ts'
import { useSession } from '../stores/session.ts'
import SignInLayout from './SignInLayout.vue'

const session = useSession()
const router = useRouter()
const problem = ref('')
const busy = ref(false)
const form = reactive({ code: '', name: '', fullName: '', password: '', title: '', client: '' })

async function create(): Promise<void> {
  busy.value = true
  problem.value = ''
  try {
    await api.post('/first-user', {
      code: form.code,
      user: { name: form.name, fullName: form.fullName, password: form.password },
      engagement: { title: form.title, client: form.client },
    })
    await session.ask()
    const [own] = session.view?.engagements ?? []
    await router.replace(own ? `/e/${own.id}/set-up` : '/')
  } catch (error) {
    problem.value = wordsOf(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <SignInLayout>
    <h1>The first user</h1>
    <form @submit.prevent="create">
      <v-text-field
        v-model="form.code"
        v-focus
        label="One-time code (the start command printed it)"
        autocomplete="one-time-code"
        required
      />
      <v-text-field v-model="form.fullName" label="Your full name" autocomplete="name" required />
      <v-text-field v-model="form.name" label="Name to sign in with" autocomplete="username" required />
      <v-text-field
        v-model="form.password"
        label="Password, at least 15 characters"
        type="password"
        autocomplete="new-password"
        required
      />
      <v-text-field v-model="form.title" label="Title of the first engagement" required />
      <v-text-field v-model="form.client" label="Client" />
      <ProblemNote :text="problem" />
      <v-btn type="submit" variant="flat" :loading="busy" block>Create and sign in</v-btn>
    </form>
  </SignInLayout>
</template>
