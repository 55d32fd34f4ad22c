<script setup lang="ts">
/** Asks for the password once more before a dangerous act. */
import { ref } from 'vue'
import { api, onConfirmIdentity, wordsOf } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { vFocus } from '../shared/focus.ts'
import { useSession } from '../stores/session.ts'

const session = useSession()
const isOpen = ref(false)
const isBusy = ref(false)
const password = ref('')
const code = ref('')
const problem = ref('')
let answer: (isRight: boolean) => void = () => undefined

onConfirmIdentity(
  () =>
    new Promise((resolve) => {
      password.value = code.value = problem.value = ''
      isOpen.value = true
      answer = resolve
    }),
)

function end(isRight: boolean): void {
  isOpen.value = false
  answer(isRight)
}

async function confirm(): Promise<void> {
  isBusy.value = true
  problem.value = ''
  try {
    await api.post('/session/confirm', {
      password: password.value,
      ...(session.view?.hasSecondFactor ? { code: code.value } : {}),
    })
    end(true)
  } catch (error) {
    problem.value = wordsOf(error)
  } finally {
    isBusy.value = false
  }
}
</script>

<template>
  <v-dialog :model-value="isOpen" max-width="420" @update:model-value="(open: boolean) => open || end(false)">
    <v-card class="card" role="dialog" aria-labelledby="confirm-identity">
      <h2 id="confirm-identity">Confirm your identity</h2>
      <p class="quiet">This needs your password again. It then counts for 15 minutes.</p>
      <form @submit.prevent="confirm">
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
          v-model="password"
          v-focus
          type="password"
          label="Password"
          autocomplete="current-password"
          required
        />
        <v-text-field
          v-if="session.view?.hasSecondFactor"
          v-model="code"
          label="Code of your second factor"
          autocomplete="one-time-code"
          required
        />
        <ProblemNote :text="problem" />
        <div class="ends">
          <v-btn variant="text" @click="end(false)">Cancel</v-btn
          ><v-btn type="submit" variant="flat" :loading="isBusy">Confirm</v-btn>
        </div>
      </form>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.card {
  padding: 20px;
}
form {
  display: grid;
  gap: 10px;
  margin-top: 12px;
}
.ends {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
