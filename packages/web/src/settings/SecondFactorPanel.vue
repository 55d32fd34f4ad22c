<script setup lang="ts">
import { computed, ref } from 'vue'
import QRCode from 'qrcode'
import { api, wordsOf } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useSession } from '../stores/session.ts'

const session = useSession()
const isOn = computed(() => session.view?.hasSecondFactor === true)
const begun = ref<{ secret: string; picture: string } | null>(null)
const code = ref('')
const codes = ref<string[]>([])
const problem = ref('')

async function attempt(work: () => Promise<void>): Promise<void> {
  problem.value = ''
  try {
    await work()
  } catch (error) {
    problem.value = wordsOf(error)
  }
}
const begin = (): Promise<void> =>
  attempt(async () => {
    const { secret, uri } = await api.post<{ secret: string; uri: string }>('/second-factor/begin')
    begun.value = { secret, picture: await QRCode.toDataURL(uri, { margin: 2, width: 176 }) }
  })
const turnOn = (): Promise<void> =>
  attempt(async () => {
    codes.value = (await api.post<{ codes: string[] }>('/second-factor', { code: code.value })).codes
    begun.value = null
    code.value = ''
    await session.ask()
  })
const turnOff = (): Promise<void> =>
  attempt(async () => {
    await api.delete('/second-factor')
    codes.value = []
    await session.ask()
  })
</script>

<template>
  <div class="factor">
    <h2>Second factor</h2>
    <p class="quiet">
      {{
        isOn
          ? 'On: signing in also asks for a six-digit code.'
          : 'Off. An authenticator app (TOTP, RFC 6238) protects your account if your password is stolen.'
      }}
    </p>
    <template v-if="codes.length > 0">
      <p>
        <strong>Keep these recovery codes.</strong> Each signs you in once without your device. They are not shown
        again.
      </p>
      <ul class="codes mono">
        <li v-for="one in codes" :key="one">{{ one }}</li>
      </ul>
    </template>
    <form v-if="begun" class="begun" @submit.prevent="turnOn">
      <img :src="begun.picture" width="176" height="176" alt="QR code that holds the secret below" />
      <div class="steps">
        <p>
          1. Scan the code with your authenticator app, or type the secret:
          <span class="mono secret">{{ begun.secret }}</span>
        </p>
        <p>2. Enter the code that the app shows.</p>
        <v-text-field v-model="code" label="Six-digit code" inputmode="numeric" autocomplete="one-time-code" required />
        <div class="ends">
          <v-btn type="submit" variant="flat">Turn on</v-btn><v-btn variant="text" @click="begun = null">Cancel</v-btn>
        </div>
      </div>
    </form>
    <ProblemNote :text="problem" />
    <v-btn v-if="isOn" @click="turnOff">Turn off second factor</v-btn>
    <v-btn v-else-if="!begun" @click="begin">Set up second factor</v-btn>
  </div>
</template>

<style scoped>
.factor {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.begun {
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
}
.steps {
  display: grid;
  gap: 8px;
  flex: 1 1 200px;
  align-content: start;
}
.secret {
  overflow-wrap: anywhere;
}
.codes {
  columns: 2;
  list-style: none;
  padding: 0;
  margin: 0;
}
.ends {
  display: flex;
  gap: 8px;
}
img {
  background: #fff;
}
</style>
