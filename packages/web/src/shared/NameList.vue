<script setup lang="ts">
/** How many things an answer is about, and their names behind it; nothing where there are none. */
const props = defineProps<{
  text: string
  /** The first of them: an answer may hold fewer names than there are things. */
  named: { readonly count: number; readonly names: readonly string[] }
}>()
</script>

<template>
  <details v-if="props.named.count > 0" class="names">
    <summary>{{ props.text }}</summary>
    <ul>
      <li v-for="(name, i) in props.named.names" :key="i">{{ name }}</li>
      <li v-if="props.named.count > props.named.names.length">
        {{ $t('common.andMore', { n: props.named.count - props.named.names.length }) }}
      </li>
    </ul>
  </details>
</template>

<style scoped>
.names ul {
  margin: 4px 0 8px;
  padding-left: 20px;
  max-height: 180px;
  overflow-y: auto;
}
</style>
