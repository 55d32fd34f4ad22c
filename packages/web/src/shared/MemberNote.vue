<script setup lang="ts">
/** Who is in, in one line; of whom it is not known, apart. */
defineProps<{ inside: readonly string[]; undecided: readonly string[]; of: number }>()
const SHOWN = 8
const some = (names: readonly string[]): string =>
  `${names.slice(0, SHOWN).join(', ')}${names.length > SHOWN ? ` and ${names.length - SHOWN} more` : ''}`
</script>

<template>
  <p class="quiet" role="status" data-part="members">
    In scope: <b>{{ inside.length }}</b> of {{ of }} devices<template v-if="inside.length > 0"
      >: {{ some(inside) }}</template
    >.
    <template v-if="undecided.length > 0">Unknown for {{ undecided.length }}: {{ some(undecided) }}.</template>
  </p>
</template>
