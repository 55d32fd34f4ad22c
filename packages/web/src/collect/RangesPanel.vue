<script setup lang="ts">
import { setConnectRanges } from '@jurybox/api/collecting'
import { setTranslations } from '@jurybox/api/discovery'
import { ref, watch } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'

/** Where devices may be tried, as a lead allows it, and through which addresses they are reached. */
const props = defineProps<{ ranges: readonly string[]; translations: readonly { from: string; to: string }[] }>()
const emit = defineEmits<{ changed: [] }>()
const engagement = useEngagement()
const { problem, attempt } = useAttempt(() => emit('changed'))
const allowed = ref('')
const through = ref('')
const shown = (): string => props.translations.map(({ from, to }) => `${from} = ${to}`).join('\n')
watch(
  [() => props.ranges, () => props.translations],
  () => ([allowed.value, through.value] = [props.ranges.join(', '), shown()]),
  { immediate: true },
)
const keep = () =>
  attempt(async () => {
    await call(setConnectRanges, { body: { ranges: allowed.value.split(/[\s,;]+/).filter(Boolean) } })
    await call(setTranslations, {
      body: {
        translations: through.value
          .split('\n')
          .filter((line) => line.trim())
          .map((line) => ({ from: line.split('=')[0]?.trim() ?? '', to: line.split('=')[1]?.trim() ?? '' })),
      },
    })
  })
</script>

<template>
  <section class="panel block">
    <h2>{{ $t('collect.scanRanges') }}</h2>
    <ProblemNote :text="problem" />
    <form v-if="engagement.may.manage" class="form" @submit.prevent="keep">
      <v-text-field v-model="allowed" :label="$t('collect.prefixesSeparatedByCommasEmpty')" class="code" />
      <v-textarea
        v-model="through"
        :label="$t('collect.addressTranslationsOnePerLine')"
        rows="1"
        auto-grow
        class="code"
      />
      <v-btn type="submit" size="small" :disabled="allowed === props.ranges.join(', ') && through === shown()">{{
        $t('common.save')
      }}</v-btn>
    </form>
    <p v-else class="mono">{{ props.ranges.join(', ') || $t('collect.noneALeadAddsRanges') }}</p>
    <p class="quiet">{{ $t('collect.ifAddressesAreTranslatedOn') }}</p>
  </section>
</template>

<style scoped>
.block {
  padding: 12px 16px;
  display: grid;
  gap: 8px;
  grid-template-columns: minmax(0, 1fr);
}
.form {
  display: grid;
  gap: 10px;
  justify-items: start;
}
.form > :not(.v-btn) {
  width: 100%;
}
.code :deep(input),
.code :deep(textarea) {
  font-family: var(--mono);
  font-size: 12.5px;
}
</style>
