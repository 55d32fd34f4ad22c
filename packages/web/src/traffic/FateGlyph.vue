<script setup lang="ts">
/** The shape of a fate, 18 by 12, to be drawn in an SVG in the colour that is there. */
defineProps<{ fate: string }>()
</script>

<template>
  <g :class="fate" class="glyph">
    <template v-if="fate === 'arrives'"
      ><path d="M1 6h8M6.4 3 9.4 6 6.4 9" /><circle cx="14" cy="6" r="2.6" class="solid"
    /></template>
    <template v-else-if="fate === 'leaves'"><path d="M8 1.5H2v9h6" /><path d="M6 6h10M13 3l3 3-3 3" /></template>
    <template v-else-if="fate === 'stopped'"><path d="M1 6h9" /><path d="M13 1v10" class="bar" /></template>
    <template v-else-if="fate === 'loops'"
      ><path d="M14 6a5 4.4 0 1 1-3-4" /><path d="M8.6 3.2 11.4 2l.2 3"
    /></template>
    <template v-else
      ><path d="M1 6h5" /><path d="M12 1 17 6 12 11 7 6z" /><path d="M12 1 12 11 7 6z" class="solid"
    /></template>
  </g>
</template>

<style scoped>
.glyph {
  fill: none;
  stroke: currentColor;
  stroke-width: 1.6;
}
.solid {
  fill: currentColor;
  stroke: none;
}
.bar {
  stroke-width: 3;
}
.arrives,
.leaves {
  color: rgb(var(--v-theme-pass));
}
.stopped,
.loops {
  color: rgb(var(--v-theme-fail));
}
.undecided {
  color: rgb(var(--v-theme-unknown));
}
</style>
