<script setup lang="ts">
/** Classes of headers; those that take more than a few lines are opened by who wants them whole. */
defineProps<{ classes: readonly string[]; whole: boolean }>()
const SHORT = 150
const start = (text: string): string => `${text.slice(0, SHORT).replace(/\s\S*$/, '')} …`
</script>

<template>
  <ul class="classes">
    <li v-for="text in classes" :key="text">
      <code v-if="text.length <= SHORT">{{ text }}</code>
      <details v-else><summary><code>{{ start(text) }}</code></summary><code>{{ text }}</code></details>
    </li>
    <li v-if="!whole" class="quiet">and more</li>
  </ul>
</template>

<style scoped>
.classes { list-style: none; padding: 0; margin: 2px 0; display: grid; gap: 3px; }
code { font-family: var(--mono); font-size: 12.5px; overflow-wrap: anywhere; }
summary { cursor: pointer; min-height: 24px; }
details[open] summary code { color: rgb(var(--v-theme-quiet)); }
</style>
