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
    <h1>{{ $t('signIn.newPassword') }}</h1>
    <p class="quiet">{{ $t('signIn.youSignedInWithA') }}</p>
    <PasswordForm :current-label="$t('signIn.oneTimePassword')" @changed="goOn" />
  </SignInLayout>
</template>
