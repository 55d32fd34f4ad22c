<script setup lang="ts">
import { mdiCalendar } from '@mdi/js'
import { ref } from 'vue'
import { t } from '../messages/index.ts'

/**
 * A day as `YYYY-MM-DD` (ISO 8601), typed or picked: the browser's own field shows days as its language has them, which
 * reads otherwise than every other date here.
 */
defineProps<{ label: string; errorMessages?: string | undefined; clearable?: boolean; hint?: string }>()
const day = defineModel<string>({ default: '' })
const isOpen = ref(false)

const isDay = (text: string): boolean => {
  const parsed = new Date(`${text}T00:00:00Z`)
  return /^\d{4}-\d\d-\d\d$/.test(text) && !Number.isNaN(parsed.getTime()) && parsed.toISOString().startsWith(text)
}
const rules = [(text: string | null): true | string => !text || isDay(text) || t('shared.aDay')]
/** The picker works with local midnight. */
const toDate = (text: string): Date | null => (isDay(text) ? new Date(`${text}T00:00:00`) : null)
function pick(date: unknown): void {
  if (!(date instanceof Date)) return
  const two = (n: number): string => String(n).padStart(2, '0')
  day.value = `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`
  isOpen.value = false
}
</script>

<template>
  <v-text-field
    :model-value="day"
    :label="label"
    :rules="rules"
    :error-messages="errorMessages"
    :clearable="clearable ?? false"
    :hint="hint ?? ''"
    :persistent-hint="Boolean(hint)"
    placeholder="YYYY-MM-DD"
    persistent-placeholder
    inputmode="numeric"
    @update:model-value="(text: string | null) => (day = (text ?? '').trim())"
  >
    <template #append-inner>
      <v-menu v-model="isOpen" :close-on-content-click="false">
        <template #activator="{ props: menu }">
          <v-btn
            v-bind="menu"
            :icon="mdiCalendar"
            variant="text"
            size="x-small"
            :aria-label="$t('shared.pickADay', { label })"
          />
        </template>
        <v-date-picker first-day-of-week="1" :model-value="toDate(day)" hide-header @update:model-value="pick" />
      </v-menu>
    </template>
  </v-text-field>
</template>
