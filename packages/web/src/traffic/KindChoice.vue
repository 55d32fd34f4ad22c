<script setup lang="ts">
/** One of some kinds, or all of them; the empty word stands for all. */
defineProps<{
  label: string
  all: string
  kinds: readonly { readonly id: string; readonly title: string; readonly count?: number }[]
}>()
const chosen = defineModel<string>({ required: true })
</script>

<template>
  <p class="kinds" role="group" :aria-label="label">
    <button type="button" class="as-link" :aria-pressed="chosen === ''" @click="chosen = ''">{{ all }}</button>
    <button
      v-for="one in kinds"
      :key="one.id"
      type="button"
      class="as-link"
      :aria-pressed="chosen === one.id"
      @click="chosen = one.id"
    >
      {{ one.title }}{{ one.count === undefined ? '' : ` ${one.count}` }}
    </button>
  </p>
</template>

<style scoped>
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin-bottom: 10px;
}
.kinds [aria-pressed='true'] {
  font-weight: 600;
  text-decoration: none;
  color: rgb(var(--v-theme-on-surface));
}
</style>
