<script setup lang="ts">
/** For accounts whose password was given by someone else: nothing opens before they have one of their own. */
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import PasswordForm from '../settings/PasswordForm.vue'
import { useSession } from '../stores/session.ts'
import SignInLayout from './SignInLayout.vue'

const session = useSession()
const router = useRouter()
const isChanged = ref(false)

async function goOn(): Promise<void> {
  isChanged.value = true
  await session.ask()
  await router.replace('/')
}
</script>

<template>
  <SignInLayout>
    <h1>New password</h1>
    <p class="quiet">You signed in with a one-time password. Choose one that only you know.</p>
    <PasswordForm current-label="One-time password" @changed="goOn" />
  </SignInLayout>
</template>
