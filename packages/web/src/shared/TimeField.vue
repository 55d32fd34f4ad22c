<script setup lang="ts">
import { t } from '../messages/index.ts'

/** A time of day as `HH:MM`, of 24 hours: the browser's own field shows it as its language has it. */
defineProps<{ label: string; errorMessages?: string | undefined }>()
const time = defineModel<string>({ default: '' })
const rules = [(text: string): true | string => /^([01]\d|2[0-3]):[0-5]\d$/.test(text) || t('shared.aTime')]
</script>

<template>
  <v-text-field
    v-model.trim="time"
    :label="label"
    :rules="rules"
    :error-messages="errorMessages"
    placeholder="HH:MM"
    persistent-placeholder
  />
</template>
