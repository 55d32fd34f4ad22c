<script setup lang="ts">
import { t } from '../messages/index.ts'
import { useConfirm } from '../stores/confirm.ts'
import { beginSecondFactor, turnOffSecondFactor, turnOnSecondFactor } from '@jurybox/api/sessions'
import { computed, ref } from 'vue'
import QRCode from 'qrcode'
import { wordsOf, call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useSession } from '../stores/session.ts'

const confirm = useConfirm()

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
    const { secret, uri } = await call(beginSecondFactor)
    begun.value = { secret, picture: await QRCode.toDataURL(uri, { margin: 2, width: 176 }) }
  })
const turnOn = (): Promise<void> =>
  attempt(async () => {
    codes.value = (await call(turnOnSecondFactor, { body: { code: code.value } })).codes
    begun.value = null
    code.value = ''
    await session.ask()
  })
async function turnOff(): Promise<void> {
  const question = { title: t('settings.turnOffQuestion'), action: t('settings.turnOffSecondFactor') }
  if (!(await confirm.ask(question))) return
  await attempt(async () => {
    await call(turnOffSecondFactor)
    codes.value = []
    await session.ask()
  })
}
</script>

<template>
  <div class="factor">
    <h2>{{ $t('settings.secondFactor') }}</h2>
    <p class="quiet">
      {{ isOn ? $t('settings.onSignInAlsoRequires') : $t('settings.offAnAuthenticatorAppTotp') }}
    </p>
    <template v-if="codes.length > 0">
      <p>
        <strong>{{ $t('settings.saveTheseRecoveryCodes') }}</strong> {{ $t('settings.eachWorksOnceWithoutYour') }}
      </p>
      <ul class="codes mono">
        <li v-for="one in codes" :key="one">{{ one }}</li>
      </ul>
    </template>
    <form v-if="begun" class="begun" @submit.prevent="turnOn">
      <img :src="begun.picture" width="176" height="176" :alt="$t('settings.qrCodeThatHoldsThe')" />
      <div class="steps">
        <p>
          {{ $t('settings.n1ScanTheCodeWith') }}
          <span class="mono secret">{{ begun.secret }}</span>
        </p>
        <p>{{ $t('settings.n2EnterTheCodeThat') }}</p>
        <v-text-field
          v-model="code"
          :label="$t('settings.sixDigitCode')"
          inputmode="numeric"
          autocomplete="one-time-code"
          required
        />
        <div class="ends">
          <v-btn type="submit" variant="flat">{{ $t('settings.turnOn') }}</v-btn><v-btn
            variant="text"
            @click="begun = null"
            >{{ $t('common.cancel') }}</v-btn
          >
        </div>
      </div>
    </form>
    <ProblemNote :text="problem" />
    <v-btn v-if="isOn" @click="turnOff">{{ $t('settings.turnOffSecondFactor') }}</v-btn>
    <v-btn v-else-if="!begun" @click="begin">{{ $t('settings.setUpSecondFactor') }}</v-btn>
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
