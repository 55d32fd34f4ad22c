<script setup lang="ts">
import type { Picture } from '@jurybox/core/forwarding'
import { computed, onBeforeUnmount, ref, shallowRef, useTemplateRef, watch } from 'vue'
import type { MapView } from '../api/estate-types.ts'
import { graphOf } from '../estate/map-graph.ts'
import { layOut } from '../estate/map-layout.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { usePolling } from '../shared/polling.ts'
import { useEngagement } from '../stores/engagement.ts'
import FateMark from './FateMark.vue'
import PathSvg from './PathSvg.vue'
import { FATES } from './packet-words.ts'
import { drawingOf, mapAround, type PathDrawing } from './path-drawing.ts'

/**
 * Where packets go, on the map: a line for each fate, in a sheath for each layer that protects it, dashed in the clear.
 */
const props = defineProps<{ picture: Picture }>()
const engagement = useEngagement()
const { ask } = usePolling()
const { problem, attempt } = useAttempt()
const drawing = shallowRef<PathDrawing | null>(null)
const [whole, large] = [ref(false), ref(false)]
const holder = useTemplateRef<HTMLElement>('holder')
let stopping: AbortController | null = null
watch(
  [() => engagement.b?.id, () => props.picture, whole],
  ([id]) =>
    void (
      id !== undefined &&
      attempt(async () => {
        const view = await ask<MapView>(`${engagement.base}/estate/map`, { snapshot: id })
        if (!view) return
        stopping?.abort()
        const mine = (stopping = new AbortController())
        const around = mapAround(props.picture, view, whole.value)
        const { nodes, edges } = graphOf(around)
        const known = new Set(nodes.map((node) => node.id))
        // Tunnels are no links of the estate, and draw their ends together all the same.
        const ways = props.picture.links
          .map(({ from, to }, i) => ({
            id: `way ${i}`,
            source: `device ${from.device}`,
            target: `device ${to.device}`,
            link: -1,
          }))
          .filter(({ source, target }) => known.has(source) && known.has(target))
        const positions = await layOut(
          nodes,
          [...edges, ...ways],
          Math.max(0.8, (holder.value?.clientWidth ?? 700) / 340),
          mine.signal,
        )
        if (!mine.signal.aborted) drawing.value = drawingOf(props.picture, around, positions)
      })
    ),
  { immediate: true },
)
onBeforeUnmount(() => stopping?.abort())
const fates = computed(() =>
  FATES.filter(
    (fate) =>
      props.picture.links.some((link) => link.fates.includes(fate)) ||
      props.picture.ends.some((end) => end.fates.includes(fate)),
  ),
)
const words = computed(
  () =>
    `${props.picture.links.length} links on the way; ends at ${props.picture.ends.map(({ device, fates: all }) => `${device} (${all.join(', ')})`).join(', ')}. The same as a table: Links on the way.`,
)
</script>

<template>
  <figure ref="holder" class="paths">
    <ProblemNote :text="problem" />
    <template v-if="drawing">
      <PathSvg :drawing="drawing" :words="words" />
      <v-dialog v-model="large" max-width="1600" width="96vw" aria-label="Map of the paths">
        <v-card class="enlarged"
          ><PathSvg :drawing="drawing" :words="words" />
          <div class="end"><v-btn variant="flat" @click="large = false">Close</v-btn></div></v-card
        >
      </v-dialog>
    </template>
    <p v-else-if="!problem" class="quiet" role="status">Drawing the map…</p>
    <figcaption>
      <FateMark v-for="fate in fates" :key="fate" :fate="fate" />
      <span class="key"
        ><svg width="34" height="10" aria-hidden="true"><line x1="1" y1="5" x2="33" y2="5" class="way clear" /></svg> in
        the clear</span
      >
      <span class="key"
        ><svg width="34" height="12" aria-hidden="true">
          <line x1="1" y1="6" x2="33" y2="6" class="sheath" stroke-width="9" />
          <line x1="1" y1="6" x2="33" y2="6" class="lining" stroke-width="6" />
          <line x1="1" y1="6" x2="33" y2="6" class="way" />
        </svg>
        a layer protects it</span
      >
      <span class="key"
        ><svg width="22" height="14" aria-hidden="true">
          <rect x="1" y="1" width="20" height="12" rx="2" class="start" />
        </svg>
        begins here</span
      >
      <label class="key"><input v-model="whole" type="checkbox" /> the rest of the estate</label>
      <v-btn size="small" :disabled="!drawing" @click="large = true">Enlarge</v-btn>
    </figcaption>
    <details class="table">
      <summary>Links on the way</summary>
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">From</th>
            <th scope="col">To</th>
            <th scope="col">Fates</th>
            <th scope="col">Protection</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(link, i) in picture.links" :key="i">
            <td>
              <b>{{ link.from.device }}</b> {{ link.from.port }}
            </td>
            <td>
              <b>{{ link.to.device }}</b> {{ link.to.port }}
            </td>
            <td><FateMark v-for="fate in link.fates" :key="fate" :fate="fate" /></td>
            <td>{{ link.layers.join('; ') || 'in the clear' }}</td>
          </tr>
        </tbody>
      </table>
    </details>
  </figure>
</template>

<style scoped>
.paths {
  margin: 0 0 14px;
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
figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  margin: 6px 2px;
  font-size: 13px;
  align-items: center;
}
.key {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.table summary {
  cursor: pointer;
  min-height: 24px;
  color: rgb(var(--v-theme-quiet));
}
.start {
  fill: rgb(var(--v-theme-brass-fill));
  stroke: rgb(var(--v-theme-brass));
  stroke-width: 2;
}
.enlarged {
  padding: 14px;
}
.enlarged :deep(.drawn) {
  max-height: calc(96vh - 110px);
}
.end {
  display: flex;
  justify-content: flex-end;
  margin-top: 10px;
}
</style>
