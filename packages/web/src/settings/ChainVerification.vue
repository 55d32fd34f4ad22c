<script setup lang="ts">
import type { ResponseOf } from '@jurybox/api/endpoint'
import { verifyActivity } from '@jurybox/api/engagements'
import { ref } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'

/** Verifies the chain of the audit log from an entry on, and shows its signed heads. */
const from = ref('')
const { problem, attempt } = useAttempt()
const came = ref<ResponseOf<typeof verifyActivity> | null>(null)
const verify = () =>
  attempt(async () => {
    came.value = await call(verifyActivity, { query: { from: Number(from.value) || 0 } })
  })
</script>

<template>
  <form class="verify" @submit.prevent="verify">
    <v-text-field
      v-model="from"
      type="number"
      min="1"
      density="compact"
      hide-details
      :label="$t('settings.verifyFromEntry')"
    />
    <v-btn type="submit" size="small" variant="tonal">{{ $t('settings.verifyChain') }}</v-btn>
    <ProblemNote :text="problem" />
    <div v-if="came" role="status" class="came">
      <p :class="{ broken: came.firstBreak !== null }">
        {{
          came.firstBreak === null
            ? $t('settings.entriesFollow', came.entries)
            : $t('settings.theHashChainIsBroken', { firstBreak: came.firstBreak })
        }}
      </p>
      <p v-if="came.head" class="quiet">
        {{ $t('settings.chainHead', { entry: came.head.entry }) }} <code>{{ came.head.hash }}</code>
      </p>
      <p v-for="head in came.signed.slice(0, 7)" :key="head.day" :class="head.holds ? 'quiet' : 'broken'">
        {{
          head.holds
            ? $t('settings.headSigned', { day: head.day, entry: head.entry })
            : $t('settings.headBroken', { day: head.day, entry: head.entry })
        }}
      </p>
    </div>
  </form>
</template>

<style scoped>
.verify {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}
.verify > .v-input {
  max-width: 260px;
}
.came {
  flex-basis: 100%;
}
.came p {
  margin: 2px 0;
}
code {
  font-size: 12px;
  overflow-wrap: anywhere;
}
.broken {
  color: rgb(var(--v-theme-fail));
  font-weight: 600;
}
</style>
