<script setup lang="ts">
/** A button that says beside itself why it cannot be pressed yet; it can where there is no reason. */
defineProps<{ why: string }>()
defineOptions({ inheritAttrs: false })
</script>

<template>
  <span class="action">
    <span v-if="why" class="quiet why" role="note">{{ why }}</span><v-btn v-bind="$attrs" :disabled="why !== ''"
      ><slot
    /></v-btn>
  </span>
</template>

<style scoped>
.action {
  display: inline-flex;
  align-items: center;
  gap: 10px;
}
.why {
  font-size: 12.5px;
}
</style>
