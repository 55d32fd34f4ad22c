<script setup lang="ts">
import { firstOf } from './words.ts'
/** Who is in, in one line; of whom it is not known, apart. */
defineProps<{ inside: readonly string[]; undecided: readonly string[]; outside?: readonly string[]; of: number }>()
const some = (names: readonly string[]): string => firstOf(names, 8)
</script>

<template>
  <p class="quiet" role="status" data-part="members">
    {{ $t('shared.inScope') }} <b>{{ inside.length }}</b> {{ $t('shared.ofDevices', { n: of })
    }}<template v-if="inside.length > 0">: {{ some(inside) }}</template
    >.
    <template v-if="undecided.length > 0">{{
      $t('shared.unknownFor', { undecided: undecided.length, undecided2: some(undecided) })
    }}</template>
    <template v-if="outside && outside.length > 0">{{
      $t('shared.outOfScope', { n: outside.length, names: some(outside) })
    }}</template>
  </p>
</template>
