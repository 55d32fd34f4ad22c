<script setup lang="ts">
/** What belongs on an empty page, and the step that brings it; `whole`: nothing else stands on the page. */
defineProps<{ title: string; text: string; whole?: boolean }>()
</script>

<template>
  <div class="empty panel">
    <component :is="whole ? 'h1' : 'h2'">{{ title }}</component>
    <p class="quiet">{{ text }}</p>
    <div class="step"><slot /></div>
  </div>
</template>

<style scoped>
.empty {
  padding: 32px;
  max-width: 640px;
}
.empty p {
  margin: 6px 0 16px;
}
.step {
  display: flex;
  gap: 8px;
}
</style>
