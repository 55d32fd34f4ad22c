<script setup lang="ts">
import type { Picture } from '@jurybox/core'
import { computed, onBeforeUnmount, ref, shallowRef, useTemplateRef, watch } from 'vue'
import type { MapView } from '../api/estate-types.ts'
import { graphOf } from '../estate/map-graph.ts'
import { layOut } from '../estate/map-layout.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { usePatience } from '../shared/patience.ts'
import { useEngagement } from '../stores/engagement.ts'
import FateMark from './FateMark.vue'
import { FATES } from './packet-words.ts'
import { drawingOf, mapAround, type PathDrawing } from './path-drawing.ts'

/** Where packets go, on the map: a line for each fate, in a sheath for each layer that protects it, dashed in the clear. */
const props = defineProps<{ picture: Picture }>()
const engagement = useEngagement()
const { ask } = usePatience()
const { problem, attempt } = useAttempt()
const drawing = shallowRef<PathDrawing | null>(null)
const whole = ref(false)
const holder = useTemplateRef<HTMLElement>('holder')
let stopping: AbortController | null = null
watch(
  [() => engagement.b?.id, () => props.picture, whole],
  ([id]) => void (id !== undefined && attempt(async () => {
    const view = await ask<MapView>(`${engagement.base}/estate/map`, { snapshot: id })
    if (!view) return
    stopping?.abort()
    const mine = (stopping = new AbortController())
    const around = mapAround(props.picture, view, whole.value)
    const { nodes, edges } = graphOf(around)
    const known = new Set(nodes.map((node) => node.id))
    // Tunnels are no links of the estate, and draw their ends together all the same.
    const ways = props.picture.links.map(({ from, to }, i) => ({ id: `way ${i}`, source: `device ${from.device}`, target: `device ${to.device}`, link: -1 })).filter(({ source, target }) => known.has(source) && known.has(target))
    const positions = await layOut(nodes, [...edges, ...ways], Math.max(0.8, (holder.value?.clientWidth ?? 700) / 340), mine.signal)
    if (!mine.signal.aborted) drawing.value = drawingOf(props.picture, around, positions)
  })),
  { immediate: true },
)
onBeforeUnmount(() => stopping?.abort())
const fates = computed(() => FATES.filter((fate) => props.picture.links.some((link) => link.fates.includes(fate)) || props.picture.ends.some((end) => end.fates.includes(fate))))
const kinds = (layers: readonly string[]): string => layers.map((words) => words.split(/[ ,]/)[0] ?? '').join(' in ')
const words = computed(() => `${props.picture.links.length} links on the way; ends at ${props.picture.ends.map(({ device, fates: all }) => `${device} (${all.join(', ')})`).join(', ')}. The same as a table: Links on the way.`)
</script>

<template>
  <figure ref="holder" class="paths">
    <ProblemNote :text="problem" />
    <svg v-if="drawing" :viewBox="`${drawing.left} ${drawing.top} ${drawing.width} ${drawing.height}`" role="img" :aria-label="words">
      <g class="frames"><g v-for="frame in drawing.frames" :key="frame.label"><rect :x="frame.x" :y="frame.y" :width="frame.width" :height="frame.height" rx="3" /><text :x="frame.x + 7" :y="frame.y + 15">{{ frame.label }}</text></g></g>
      <line v-for="(link, i) in drawing.links" :key="`l${i}`" :x1="link.from.x" :y1="link.from.y" :x2="link.to.x" :y2="link.to.y" class="plain" />
      <g v-for="(path, i) in drawing.paths" :key="`p${i}`" :class="path.fate">
        <title>{{ path.title }}</title>
        <template v-for="layer in path.layers.length" :key="layer">
          <line :x1="path.from.x" :y1="path.from.y" :x2="path.to.x" :y2="path.to.y" class="sheath" :stroke-width="3 + 6 * (path.layers.length - layer + 1)" />
          <line :x1="path.from.x" :y1="path.from.y" :x2="path.to.x" :y2="path.to.y" class="lining" :stroke-width="6 * (path.layers.length - layer + 1)" />
        </template>
        <line :x1="path.from.x" :y1="path.from.y" :x2="path.to.x" :y2="path.to.y" class="way" :class="{ clear: path.layers.length === 0 }" />
        <g :transform="`translate(${path.middle.x} ${path.middle.y}) rotate(${path.angle})`">
          <path v-if="path.fate === 'arrives'" d="M-5-5 6 0-5 5Z" class="full" /><path v-else-if="path.fate === 'leaves'" d="M-5-5 6 0-5 5Z" class="open" />
          <path v-else-if="path.fate === 'stopped'" d="M-2-7H2V7H-2Z" class="full" /><circle v-else-if="path.fate === 'circles'" r="5" class="open" /><path v-else d="M0-6 6 0 0 6-6 0Z" class="open" />
        </g>
        <text v-if="path.layers.length > 0 && path.first" :x="path.label.x" :y="path.label.y + 4" class="layer" :class="{ after: path.label.x > path.middle.x }">{{ kinds(path.layers) }}</text>
      </g>
      <g v-for="device in drawing.devices" :key="device.name" class="device" :class="{ on: device.on, begins: device.begins }">
        <rect :x="device.x - device.width / 2" :y="device.y - 13" :width="device.width" height="26" rx="3" /><text :x="device.x - device.width / 2 + 9" :y="device.y + 4.5">{{ device.name }}</text>
        <g v-for="(fate, f) in device.fates" :key="fate" :transform="`translate(${device.x + device.width / 2 - 19 * (device.fates.length - f)} ${device.y - 6})`" :class="fate">
          <path v-if="fate === 'arrives'" d="M1 6h6M5 3 8 6 5 9" class="open" /><circle v-if="fate === 'arrives'" cx="12" cy="6" r="3" class="full" />
          <path v-if="fate === 'leaves'" d="M6 1.5H1v9h5M4 6h10M11 3l3 3-3 3" class="open" /><path v-if="fate === 'stopped'" d="M1 6h6" class="open" /><path v-if="fate === 'stopped'" d="M8.5 0h3v12h-3Z" class="full" />
          <path v-if="fate === 'circles'" d="M12 6a5 4.4 0 1 1-3-4M6.6 3.2 9.4 2l.2 3" class="open" /><path v-if="fate === 'undecided'" d="M7 0 13 6 7 12 1 6Z" class="open" />
        </g>
      </g>
    </svg>
    <p v-else-if="!problem" class="quiet" role="status">Drawing the map…</p>
    <figcaption>
      <FateMark v-for="fate in fates" :key="fate" :fate="fate" />
      <span class="key"><svg width="34" height="10" aria-hidden="true"><line x1="1" y1="5" x2="33" y2="5" class="way clear" /></svg> in the clear</span>
      <span class="key"><svg width="34" height="12" aria-hidden="true"><line x1="1" y1="6" x2="33" y2="6" class="sheath" stroke-width="9" /><line x1="1" y1="6" x2="33" y2="6" class="lining" stroke-width="6" /><line x1="1" y1="6" x2="33" y2="6" class="way" /></svg> a layer protects it</span>
      <span class="key"><svg width="22" height="14" aria-hidden="true"><rect x="1" y="1" width="20" height="12" rx="2" class="start" /></svg> begins here</span>
      <label class="key"><input v-model="whole" type="checkbox" /> the rest of the estate</label>
    </figcaption>
    <details class="table"><summary>Links on the way</summary>
      <table class="rows">
        <thead><tr><th scope="col">From</th><th scope="col">To</th><th scope="col">Fates</th><th scope="col">Protection</th></tr></thead>
        <tbody><tr v-for="(link, i) in picture.links" :key="i"><td><b>{{ link.from.device }}</b> {{ link.from.port }}</td><td><b>{{ link.to.device }}</b> {{ link.to.port }}</td><td><FateMark v-for="fate in link.fates" :key="fate" :fate="fate" /></td><td>{{ link.layers.join('; ') || 'in the clear' }}</td></tr></tbody>
      </table>
    </details>
  </figure>
</template>

<style scoped>
.paths { margin: 0 0 14px; }
.paths > svg { display: block; width: 100%; max-height: 400px; background: rgb(var(--v-theme-background)); border: var(--hair); border-radius: 3px; }
text { font-family: inherit; font-size: 13px; fill: rgb(var(--v-theme-on-surface)); }
.frames rect { fill: rgb(var(--v-theme-surface)); fill-opacity: 0.6; stroke: rgb(var(--v-theme-rule)); }
.frames text { font-size: 12px; fill: rgb(var(--v-theme-quiet)); }
.plain { stroke: rgb(var(--v-theme-rule)); stroke-width: 1.5; }
.way { stroke: currentColor; stroke-width: 2.2; }
.clear { stroke-dasharray: 6 4; }
.sheath { stroke: currentColor; }
.lining { stroke: rgb(var(--v-theme-surface)); }
.full { fill: currentColor; stroke: none; }
.open { fill: rgb(var(--v-theme-surface)); stroke: currentColor; stroke-width: 1.8; }
.layer { text-anchor: end; font-size: 11.5px; paint-order: stroke; stroke: rgb(var(--v-theme-background)); stroke-width: 3px; }
.device rect { fill: rgb(var(--v-theme-surface)); stroke: rgb(var(--v-theme-rule)); stroke-width: 1.4; }
.after { text-anchor: start; }
.device text { fill: rgb(var(--v-theme-quiet)); }
.device.on rect { stroke: rgb(var(--v-theme-on-surface)); stroke-width: 1.6; }
.device.on text { fill: rgb(var(--v-theme-on-surface)); font-weight: 600; }
.device.begins rect, .start { fill: rgb(var(--v-theme-brass-fill)); stroke: rgb(var(--v-theme-brass)); stroke-width: 2; }
.arrives, .leaves { color: rgb(var(--v-theme-pass)); }
.stopped, .circles { color: rgb(var(--v-theme-fail)); }
.undecided { color: rgb(var(--v-theme-unknown)); }
figcaption { display: flex; flex-wrap: wrap; gap: 4px 20px; margin: 6px 2px; font-size: 13px; }
figcaption :deep(.fate) { color: inherit; }
.key { display: inline-flex; align-items: center; gap: 6px; }
.table summary { cursor: pointer; min-height: 24px; color: rgb(var(--v-theme-quiet)); }
</style>
