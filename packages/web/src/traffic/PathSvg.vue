<script setup lang="ts">
import { computed } from 'vue'
import FateGlyph from './FateGlyph.vue'
import type { PathDrawing } from './path-drawing.ts'

/** Paths as they were laid out. */
const props = defineProps<{ drawing: PathDrawing; words: string }>()
/** One device alone is not blown up to the size of a map. */
const LEAST = { width: 560, height: 220 }
const box = computed(() => {
  const { left, top, width, height } = props.drawing
  const [wide, high] = [Math.max(width, LEAST.width), Math.max(height, LEAST.height)]
  return `${left - (wide - width) / 2} ${top - (high - height) / 2} ${wide} ${high}`
})
const kinds = (layers: readonly string[]): string => layers.map((words) => words.split(/[ ,]/)[0] ?? '').join(' in ')
</script>

<template>
  <svg class="drawn" :viewBox="box" role="img" :aria-label="words">
    <g class="frames">
      <g v-for="frame in drawing.frames" :key="frame.label">
        <rect :x="frame.x" :y="frame.y" :width="frame.width" :height="frame.height" rx="3" />
        <text :x="frame.x + 7" :y="frame.y + 15">{{ frame.label }}</text>
      </g>
    </g>
    <line
      v-for="(link, i) in drawing.links"
      :key="`l${i}`"
      :x1="link.from.x"
      :y1="link.from.y"
      :x2="link.to.x"
      :y2="link.to.y"
      class="plain"
    />
    <g v-for="(path, i) in drawing.paths" :key="`p${i}`" :class="path.fate">
      <title>{{ path.title }}</title>
      <template v-for="layer in path.layers.length" :key="layer">
        <line
          :x1="path.from.x"
          :y1="path.from.y"
          :x2="path.to.x"
          :y2="path.to.y"
          class="sheath"
          :stroke-width="3 + 6 * (path.layers.length - layer + 1)"
        />
        <line
          :x1="path.from.x"
          :y1="path.from.y"
          :x2="path.to.x"
          :y2="path.to.y"
          class="lining"
          :stroke-width="6 * (path.layers.length - layer + 1)"
        />
      </template>
      <line
        :x1="path.from.x"
        :y1="path.from.y"
        :x2="path.to.x"
        :y2="path.to.y"
        class="way"
        :class="{ clear: path.layers.length === 0 }"
      />
      <g :transform="`translate(${path.middle.x} ${path.middle.y}) rotate(${path.angle})`">
        <path v-if="path.fate === 'arrives'" d="M-5-5 6 0-5 5Z" class="full" />
        <path v-else-if="path.fate === 'leaves'" d="M-5-5 6 0-5 5Z" class="open" />
        <path v-else-if="path.fate === 'stopped'" d="M-2-7H2V7H-2Z" class="full" />
        <circle v-else-if="path.fate === 'loops'" r="5" class="open" />
        <path v-else d="M0-6 6 0 0 6-6 0Z" class="open" />
      </g>
      <text
        v-if="path.layers.length > 0 && path.first"
        :x="path.label.x"
        :y="path.label.y + 4"
        class="layer"
        :class="{ after: path.label.x > path.middle.x }"
      >
        {{ kinds(path.layers) }}
      </text>
    </g>
    <g
      v-for="device in drawing.devices"
      :key="device.name"
      class="device"
      :class="{ on: device.on, begins: device.begins }"
    >
      <rect :x="device.x - device.width / 2" :y="device.y - 13" :width="device.width" height="26" rx="3" />
      <text :x="device.x - device.width / 2 + 9" :y="device.y + 4.5">{{ device.name }}</text>
      <FateGlyph
        v-for="(fate, f) in device.fates"
        :key="fate"
        :fate="fate"
        :transform="`translate(${device.x + device.width / 2 - 21 * (device.fates.length - f)} ${device.y - 6})`"
      />
    </g>
  </svg>
</template>

<style scoped>
.drawn {
  display: block;
  width: 100%;
  max-height: 400px;
  background: rgb(var(--v-theme-background));
  border: var(--hair);
  border-radius: 3px;
}
text {
  font-family: inherit;
  font-size: 13px;
  fill: rgb(var(--v-theme-on-surface));
}
.frames rect {
  fill: rgb(var(--v-theme-surface));
  fill-opacity: 0.6;
  stroke: rgb(var(--v-theme-rule));
}
.frames text {
  font-size: 12px;
  fill: rgb(var(--v-theme-quiet));
}
.plain {
  stroke: rgb(var(--v-theme-rule));
  stroke-width: 1.5;
}
.full {
  fill: currentColor;
  stroke: none;
}
.open {
  fill: rgb(var(--v-theme-surface));
  stroke: currentColor;
  stroke-width: 1.8;
}
.layer {
  text-anchor: end;
  font-size: 11.5px;
  paint-order: stroke;
  stroke: rgb(var(--v-theme-background));
  stroke-width: 3px;
}
.device rect {
  fill: rgb(var(--v-theme-surface));
  stroke: rgb(var(--v-theme-rule));
  stroke-width: 1.4;
}
.after {
  text-anchor: start;
}
.device text {
  fill: rgb(var(--v-theme-quiet));
}
.device.on rect {
  stroke: rgb(var(--v-theme-on-surface));
  stroke-width: 1.6;
}
.device.on text {
  fill: rgb(var(--v-theme-on-surface));
  font-weight: 600;
}
.device.begins rect {
  fill: rgb(var(--v-theme-brass-fill));
  stroke: rgb(var(--v-theme-brass));
  stroke-width: 2;
}
.way {
  stroke: currentColor;
  stroke-width: 2.2;
}
.clear {
  stroke-dasharray: 6 4;
}
.sheath {
  stroke: currentColor;
}
.lining {
  stroke: rgb(var(--v-theme-surface));
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
