<script setup lang="ts">
import { confirmIdentity } from '@jurybox/api/sessions'
/** Asks for the password once more before a dangerous act. */
import { ref } from 'vue'
import { onConfirmIdentity, wordsOf, call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { vFocus } from '../shared/focus.ts'
import { useSession } from '../stores/session.ts'
import ModalDialog from '../shared/ModalDialog.vue'

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
    await call(confirmIdentity, {
      body: { password: password.value, ...(session.view?.hasSecondFactor ? { code: code.value } : {}) },
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
  <ModalDialog
    :model-value="isOpen"
    :width="420"
    :title="$t('frame.confirmYourIdentity')"
    @update:model-value="(open: boolean) => open || end(false)"
  >
    <p class="quiet">{{ $t('frame.enterYourPasswordAgainThe') }}</p>
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
        :label="$t('common.password')"
        autocomplete="current-password"
        required
      />
      <v-text-field
        v-if="session.view?.hasSecondFactor"
        v-model="code"
        :label="$t('frame.codeOfYourSecondFactor')"
        autocomplete="one-time-code"
        required
      />
      <ProblemNote :text="problem" />
      <div class="ends">
        <v-btn variant="text" @click="end(false)">{{ $t('common.cancel') }}</v-btn><v-btn
          type="submit"
          variant="flat"
          :loading="isBusy"
          >{{ $t('frame.confirm') }}</v-btn
        >
      </div>
    </form>
  </ModalDialog>
</template>

<style scoped>
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
