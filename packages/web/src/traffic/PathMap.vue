<script setup lang="ts">
import DataTable from '../shared/DataTable.vue'
import type { Column } from '../shared/columns.ts'
import { t } from '../messages/index.ts'
import { getMap } from '@jurybox/api/estate'
import type { Picture } from '@jurybox/core/forwarding'
import { computed, onBeforeUnmount, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { graphOf } from '../estate/map-graph.ts'
import { layOut } from '../estate/map-layout.ts'
import ProblemNote from '../shared/ProblemNote.vue'
import { useAttempt } from '../shared/attempt.ts'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import FateMark from './FateMark.vue'
import PathSvg from './PathSvg.vue'
import { FATES } from './packet-words.ts'
import { drawingOf, mapAround, type PathDrawing } from './path-drawing.ts'
import ModalDialog from '../shared/ModalDialog.vue'

/**
 * Where packets go, on the map: a line for each fate, in a sheath for each layer that protects it, dashed in the clear.
 */
const props = defineProps<{ picture: Picture }>()
const engagement = useEngagement()
const { data: view, problem: unread } = useQuery(getMap, () =>
  engagement.b ? { query: { snapshot: engagement.b.id } } : null,
)
const { problem, attempt } = useAttempt()
const drawing = shallowRef<PathDrawing | null>(null)
const [whole, large] = [ref(false), ref(false)]
const holder = useTemplateRef<HTMLElement>('holder')
let stopping: AbortController | null = null
watch(
  [view, () => props.picture, whole],
  ([map]) =>
    void (
      map &&
      attempt(async () => {
        stopping?.abort()
        const mine = (stopping = new AbortController())
        const around = mapAround(props.picture, map, whole.value)
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
        const laid = await layOut(
          nodes,
          [...edges, ...ways],
          Math.max(0.8, (holder.value?.clientWidth ?? 700) / 340),
          mine.signal,
        )
        if (laid && !mine.signal.aborted) drawing.value = drawingOf(props.picture, around, laid.positions)
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
const words = computed(() =>
  t('traffic.linksOnTheWayEnds', {
    links: props.picture.links.length,
    props: props.picture.ends.map(({ device, fates: all }) => `${device} (${all.join(', ')})`).join(', '),
  }),
)
const columns: Column<Picture['links'][number]>[] = [
  { key: 'from', title: t('common.from'), value: ({ from }) => `${from.device} ${from.port}` },
  { key: 'to', title: t('traffic.to'), value: ({ to }) => `${to.device} ${to.port}` },
  { key: 'fates', title: t('traffic.fates'), value: (link) => link.fates.join(', ') },
  {
    key: 'layers',
    title: t('traffic.protection'),
    value: ({ layers }) => layers.join('; ') || t('traffic.unprotected'),
  },
]
</script>

<template>
  <figure ref="holder" class="paths">
    <ProblemNote :text="unread || problem" />
    <template v-if="drawing">
      <PathSvg :drawing="drawing" :words="words" />
      <ModalDialog v-model="large" :width="1600" :title="$t('traffic.mapOfThePaths')">
        <PathSvg class="large" :drawing="drawing" :words="words" />
        <template #actions>
          <v-btn variant="flat" @click="large = false">{{ $t('common.close') }}</v-btn>
        </template>
      </ModalDialog>
    </template>
    <p v-else-if="!unread && !problem" class="quiet" role="status">{{ $t('traffic.drawingTheMap') }}</p>
    <figcaption>
      <FateMark v-for="fate in fates" :key="fate" :fate="fate" />
      <span class="key"
        ><svg width="34" height="10" aria-hidden="true"><line x1="1" y1="5" x2="33" y2="5" class="way clear" /></svg>
        {{ $t('traffic.unprotected') }}</span
      >
      <span class="key"
        ><svg width="34" height="12" aria-hidden="true">
          <line x1="1" y1="6" x2="33" y2="6" class="sheath" stroke-width="9" />
          <line x1="1" y1="6" x2="33" y2="6" class="lining" stroke-width="6" />
          <line x1="1" y1="6" x2="33" y2="6" class="way" />
        </svg>
        {{ $t('traffic.protected') }}</span
      >
      <span class="key"
        ><svg width="22" height="14" aria-hidden="true">
          <rect x="1" y="1" width="20" height="12" rx="2" class="start" />
        </svg>
        {{ $t('traffic.startsHere') }}</span
      >
      <label class="key"><input v-model="whole" type="checkbox" /> {{ $t('traffic.otherDevices') }}</label>
      <v-btn size="small" :disabled="!drawing" @click="large = true">{{ $t('traffic.enlarge') }}</v-btn>
    </figcaption>
    <details class="table">
      <summary>{{ $t('traffic.linksOnThePath') }}</summary>
      <DataTable name="links" :label="$t('traffic.mapOfThePaths')" :rows="picture.links" :columns="columns">
        <template #from="{ row: link }"
          ><b>{{ link.from.device }}</b> {{ link.from.port }}</template
        >
        <template #to="{ row: link }"
          ><b>{{ link.to.device }}</b> {{ link.to.port }}</template
        >
        <template #fates="{ row: link }"><FateMark v-for="fate in link.fates" :key="fate" :fate="fate" /></template>
      </DataTable>
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
.large {
  max-height: calc(96vh - 140px);
}
</style>
