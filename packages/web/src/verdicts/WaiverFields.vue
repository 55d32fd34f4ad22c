<script setup lang="ts">
import { absoluteTime } from '../shared/time.ts'
import DateField from '../shared/DateField.vue'
import { endOf, type WaiverTerms } from './waiver-terms.ts'

/** Why a risk is accepted, by whom, and until when. */
const terms = defineModel<WaiverTerms>({ required: true })
defineProps<{ fields: Readonly<Record<string, string>> }>()
</script>

<template>
  <v-textarea
    v-model="terms.reason"
    :label="$t('common.reason')"
    :error-messages="fields['reason']"
    rows="2"
    auto-grow
  />
  <div class="two">
    <v-text-field v-model="terms.owner" :label="$t('verdicts.riskOwnerLabel')" :error-messages="fields['owner']" />
    <DateField
      v-model="terms.until"
      :label="$t('verdicts.until')"
      :error-messages="fields['expires']"
      :hint="!/^\d{4}-\d\d-\d\d$/.test(terms.until) ? '' : $t('verdicts.ends', { at: absoluteTime(endOf(terms)) })"
    />
  </div>
</template>

<style scoped>
.two {
  align-items: start;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>
