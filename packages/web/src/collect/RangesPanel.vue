<script setup lang="ts">
import { setConnectRanges } from '@jurybox/api/collecting'
import { setTranslations } from '@jurybox/api/discovery'
import { computed, ref, watch } from 'vue'
import { call } from '../api/client.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useEngagement } from '../stores/engagement.ts'

/** Where devices may be tried, as a lead allows it, and through which addresses they are reached. */
const props = defineProps<{ ranges: readonly string[]; translations: readonly { from: string; to: string }[] }>()
const emit = defineEmits<{ changed: [] }>()
const engagement = useEngagement()
const { problem, fields, attempt } = useAttempt(() => emit('changed'))
/** Which entry of a list is refused, and why. */
const wrongIn = (list: 'ranges' | 'translations', entries: () => readonly string[]) =>
  computed(() =>
    Object.entries(fields.value).flatMap(([path, message]) => {
      const [name, index] = path.split('.')
      return name === list ? [[entries()[Number(index)], message].filter(Boolean).join(': ')] : []
    }),
  )
const allowed = ref('')
const through = ref('')
const shown = (): string => props.translations.map(({ from, to }) => `${from} = ${to}`).join('\n')
watch(
  [() => props.ranges, () => props.translations],
  () => ([allowed.value, through.value] = [props.ranges.join(', '), shown()]),
  { immediate: true },
)
const rangesIn = (): string[] => allowed.value.split(/[\s,;]+/).filter(Boolean)
const linesIn = (): string[] => through.value.split('\n').filter((line) => line.trim())
const wrongRanges = wrongIn('ranges', rangesIn)
const wrongTranslations = wrongIn('translations', linesIn)
const keep = () =>
  attempt(async () => {
    await call(setConnectRanges, { body: { ranges: rangesIn() } })
    await call(setTranslations, {
      body: {
        translations: linesIn().map((line) => ({
          from: line.split('=')[0]?.trim() ?? '',
          to: line.split('=')[1]?.trim() ?? '',
        })),
      },
    })
  })
</script>

<template>
  <section class="panel block">
    <h2>{{ $t('collect.scanRanges') }}</h2>
    <ProblemNote :text="problem" />
    <form v-if="engagement.may.manage" class="form" @submit.prevent="keep">
      <v-text-field
        v-model="allowed"
        :error-messages="wrongRanges"
        :label="$t('collect.prefixesSeparatedByCommasEmpty')"
        class="code"
      />
      <v-textarea
        v-model="through"
        :error-messages="wrongTranslations"
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
