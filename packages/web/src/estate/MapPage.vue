<script setup lang="ts">
import { t } from '../messages/index.ts'
import { listRates } from '@jurybox/api/changes'
import { type MapDevice, type MapLink, getMap } from '@jurybox/api/estate'
import cytoscape, { type Core, type StylesheetJson } from 'cytoscape'
import { computed, nextTick, onBeforeUnmount, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useTheme } from 'vuetify'
import EmptyPage from '../shared/EmptyPage.vue'
import ProblemNote from '../shared/ProblemNote.vue'
import ReadingNote from '../shared/ReadingNote.vue'
import { wordsOf } from '../api/client.ts'
import { usePrinting } from '../shared/printing.ts'
import { useQuery } from '../shared/query.ts'
import { useEngagement } from '../stores/engagement.ts'
import EstateHead from './EstateHead.vue'
import LinkTable from './LinkTable.vue'
import MapDetail from './MapDetail.vue'
import {
  LEGENDS,
  OVERLAYS,
  STANDINGS,
  countOf,
  graphOf,
  lineOfLoad,
  loadOf,
  loadOfDevice,
  markOf,
  nextTowards,
  segmentsIn,
  svgOf,
  type Load,
  type Mark,
  type Overlay,
} from './map-graph.ts'
import { layOut } from './map-layout.ts'
import { aside, type Point } from './map-routes.ts'

/** Devices in the frames of their sites and the links between them; shapes tell what an overlay says of each. */
const engagement = useEngagement()
const route = useRoute()
const router = useRouter()
const theme = useTheme()
const { data: view, problem, reading, load, stop } = useQuery(getMap, () => ({ query: { snapshot: engagement.b?.id } }))
watch(
  () => engagement.audit?.id,
  () => void load(),
)
const holder = useTemplateRef<HTMLElement>('holder')
const laying = ref(false)
const undrawn = ref('')
const query = (key: string, without: string) =>
  computed({
    get: () => String(route.query[key] ?? without),
    set: (value: string) => void router.push({ query: { ...route.query, [key]: value } }),
  })
const overlay = query('overlay', 'verdicts')
/** The chosen device stands in the address: a link shows the same. */
const picked = computed(() => String(route.query['device'] ?? ''))
const shown = computed<Overlay>(() => OVERLAYS.find(({ id }) => id === overlay.value)?.id ?? 'verdicts')
const side = query('as', 'map')
/* The VLAN or subnet of the overlay */
const segments = computed(() => segmentsIn(view.value?.devices ?? []))
const segmentAsked = query('segment', '')
const segment = computed(() =>
  segments.value.includes(segmentAsked.value) ? segmentAsked.value : (segments.value[0] ?? ''),
)
/* What interfaces carried since A */
const { data: rates } = useQuery(listRates, () =>
  shown.value === 'load' && engagement.a && engagement.b ? { query: { a: engagement.a.id, b: engagement.b.id } } : null,
)
const measured = computed(() => new Map((rates.value?.devices ?? []).map((one) => [one.name, one])))
const loads = computed(() => new Map([...measured.value].map(([name, own]) => [name, loadOfDevice(own)])))
/** A link carries what the busier of its ends says. */
function loadOfLink(link: MapLink | undefined): Load | null {
  if (!link) return null
  return loadOf(
    [link.a, link.b].flatMap(({ device, port }) =>
      (measured.value.get(device)?.rates ?? []).filter(({ name }) => name === port),
    ),
  )
}
const colours = computed(() => theme.current.value.colors as unknown as Record<string, string>)
/**
 * The library would write a rule of its own into the page, which its content policy refuses; the map needs none of it.
 */
function withoutOwnRules(): void {
  const id = '__________cytoscape_stylesheet'
  if (!document.getElementById(id)) document.head.append(Object.assign(document.createElement('meta'), { id }))
}
let graph: Core | null = null
let stopping: AbortController | null = null

const byName = computed(() => new Map((view.value?.devices ?? []).map((device) => [device.name, device])))
const now = Date.now()
const marked = (name: string): Mark | null => {
  const device = byName.value.get(name)
  return device ? markOf(shown.value, device, now, segment.value, loads.value.get(name)) : null
}
/** How many devices have each mark of the legend. */
const legend = computed(() => {
  const counts = new Map<string, number>()
  for (const device of view.value?.devices ?? []) {
    const { word } = markOf(shown.value, device, now, segment.value, loads.value.get(device.name))
    counts.set(word, (counts.get(word) ?? 0) + 1)
  }
  return LEGENDS[shown.value].map((mark) => ({ mark, count: counts.get(mark.word) ?? 0 }))
})
const standings = computed(() =>
  Object.entries(STANDINGS)
    .map(([id, standing]) => ({
      id,
      ...standing,
      count: view.value?.links.filter((link) => link.standing === id).length ?? 0,
    }))
    .filter(({ count }) => count > 0),
)

function styles(): StylesheetJson {
  const c = colours.value
  const text = {
    color: c['on-surface'],
    'font-family': '"Source Sans 3", sans-serif',
    'font-size': 22,
    'min-zoomed-font-size': 6,
  }
  return [
    { selector: 'core', style: { 'active-bg-opacity': 0, 'outside-texture-bg-color': c['background'] } },
    {
      selector: 'node',
      style: {
        ...text,
        label: t('estate.dataLabel'),
        'text-valign': 'bottom',
        'text-margin-y': 4,
        'text-wrap': 'wrap',
        'text-background-color': c['background'],
        'text-background-opacity': 0.7,
        'text-background-padding': '1px',
        'background-color': c['surface'],
        'border-width': 3,
        width: 34,
        height: 34,
      },
    },
    {
      selector: 'node[kind="device"]',
      style: {
        shape: 'data(shape)',
        'background-color': 'data(fill)',
        'border-color': 'data(edge)',
      } as unknown as cytoscape.Css.Node,
    },
    {
      selector: 'node[kind="stranger"]',
      style: {
        shape: 'round-tag',
        width: 26,
        height: 18,
        'border-color': c['quiet'],
        'border-style': 'dotted',
        color: c['quiet'],
      },
    },
    { selector: 'node[?down]', style: { 'border-style': 'double', 'border-width': 6 } },
    {
      selector: 'node[kind="site"]',
      style: {
        shape: 'round-rectangle',
        'background-color': c['surface'],
        'background-opacity': 0.55,
        'border-width': 1,
        'border-color': c['rule'],
        'text-valign': 'top',
        'text-halign': 'center',
        'text-margin-y': -3,
        color: c['quiet'],
        'font-size': 20,
        padding: '16px',
      },
    },
    {
      selector: 'edge',
      style: {
        width: 'data(width)',
        'line-color': 'data(colour)',
        'line-style': 'data(line)',
        'curve-style': 'bezier',
        'control-point-step-size': 18,
      } as unknown as cytoscape.Css.Edge,
    },
    {
      selector: 'edge[shares]',
      style: {
        'curve-style': 'round-segments',
        'segment-radii': 10,
        'edge-distances': 'node-position',
        'segment-weights': 'data(shares)',
        'segment-distances': 'data(distances)',
      } as unknown as cytoscape.Css.Edge,
    },
    { selector: 'node.picked', style: { 'overlay-color': c['brass'], 'overlay-opacity': 0.28, 'overlay-padding': 7 } },
    { selector: 'edge.picked', style: { 'overlay-color': c['brass'], 'overlay-opacity': 0.28, 'overlay-padding': 3 } },
  ] as StylesheetJson
}

/** The bends of a link as the drawing wants them: shares of its length and distances beside it. */
function bentData(from: Point | undefined, to: Point | undefined, bends: readonly Point[] | undefined): object {
  if (!from || !to || !bends) return {}
  const all = bends.map((bend) => aside(from, to, bend))
  return { shares: all.map(({ share }) => share), distances: all.map(({ distance }) => distance) }
}

async function draw(): Promise<void> {
  stopping?.abort()
  const [drawn, element] = [view.value, holder.value]
  if (!drawn || !element || drawn.devices.length === 0 || side.value !== 'map') return
  const { nodes, edges } = graphOf(drawn)
  const mine = (stopping = new AbortController())
  laying.value = true
  try {
    const laid = await layOut(nodes, edges, element.clientWidth / Math.max(1, element.clientHeight), mine.signal)
    if (!laid || mine.signal.aborted || holder.value !== element) return
    graph?.destroy()
    const { positions, bends } = laid
    const big = nodes.length > 300
    withoutOwnRules()
    graph = cytoscape({
      container: element,
      style: styles(),
      layout: { name: 'preset' },
      minZoom: 0.05,
      maxZoom: 4,
      wheelSensitivity: 0.3,
      autounselectify: true,
      boxSelectionEnabled: false,
      // With many devices a move is a move of a picture: what is small is drawn when it stands still.
      textureOnViewport: big,
      hideLabelsOnViewport: big,
      pixelRatio: big ? 1 : 'auto',
      elements: [
        ...nodes.map(({ id, label, parent, kind }) => ({
          data: {
            id,
            name: label,
            label,
            kind,
            ...(parent === undefined ? {} : { parent }),
            down: (byName.value.get(label)?.down ?? null) !== null && kind === 'device',
          },
          ...(positions.get(id) ? { position: { ...(positions.get(id) as { x: number; y: number }) } } : {}),
        })),
        ...edges.map(({ id, source, target, link }) => ({
          data: { id, source, target, link, ...bentData(positions.get(source), positions.get(target), bends.get(id)) },
        })),
      ],
    })
    paint()
    highlight(picked.value)
    graph.fit(undefined, 12)
    graph.on('tap', 'node[kind="device"], node[kind="stranger"]', ({ target }) => pick(String(target.data('name'))))
    graph.on('dbltap', 'node[kind="device"]', ({ target }) => openDevice(String(target.data('name'))))
    graph.on('tap', (event) => {
      if (event.target === graph) pick('')
    })
    undrawn.value = ''
  } catch (error) {
    if (!mine.signal.aborted) undrawn.value = wordsOf(error)
  } finally {
    if (stopping === mine) laying.value = false
  }
}
const lineOf = (link: MapLink | undefined) =>
  shown.value === 'load' ? lineOfLoad(loadOfLink(link)) : STANDINGS[link?.standing ?? 'agreed']
/** Colours and words, without a new layout. */
function paint(): void {
  if (!graph) return
  const c = colours.value
  graph.batch(() => {
    graph?.nodes('[kind="device"]').forEach((node) => {
      const device = byName.value.get(String(node.data('name')))
      if (!device) return
      const load = loads.value.get(device.name) ?? null
      const mark = markOf(shown.value, device, now, segment.value, load)
      const note = device.down !== null ? t('estate.notReached') : countOf(shown.value, device, load)
      node.data({
        shape: mark.shape,
        edge: c[mark.colour],
        fill: mark.filled ? c[mark.colour] : c['surface'],
        label: note ? `${device.name}\n${note}` : device.name,
      })
    })
    graph?.edges().forEach((edge) => {
      const link = view.value?.links[Number(edge.data('link'))]
      const { width, line, colour } = lineOf(link)
      edge.data({ width, line, colour: c[colour] })
    })
  })
  graph.style(styles())
}
watch([view, side], async () => {
  await nextTick()
  await draw()
})
watch([shown, colours, segment, loads], paint)
onBeforeUnmount(() => {
  stopping?.abort()
  graph?.destroy()
})

function pick(name: string): void {
  if (name !== picked.value) void router.replace({ query: { ...route.query, device: name === '' ? undefined : name } })
  highlight(name)
}
watch(picked, highlight)
function highlight(name: string): void {
  graph?.elements('.picked').removeClass('picked')
  if (name === '') return
  const node = graph?.nodes().filter((one) => one.data('name') === name && one.data('kind') !== 'site')
  node?.addClass('picked')
  node?.connectedEdges().addClass('picked')
}
function openDevice(name: string): void {
  const device = byName.value.get(name)
  if (device) void router.push(`/e/${engagement.id}/estate/${device.id}`)
}
function onKey(event: KeyboardEvent): void {
  if (!graph) return
  const nodes = graph
    .nodes('[kind="device"], [kind="stranger"]')
    .map((node) => ({ id: String(node.data('name')), ...node.position() }))
  const at = nodes.find(({ id }) => id === picked.value)
  if (event.key.startsWith('Arrow')) {
    const next = at
      ? nextTowards(
          at,
          nodes.filter(({ id }) => id !== at.id),
          event.key,
        )
      : (nodes[0]?.id ?? null)
    if (next !== null) pick(next)
  } else if (event.key === 'Enter' && at) openDevice(at.id)
  else if (event.key === '+' || event.key === '-')
    graph.zoom({
      level: graph.zoom() * (event.key === '+' ? 1.25 : 0.8),
      renderedPosition: { x: graph.width() / 2, y: graph.height() / 2 },
    })
  else if (event.key === '0') graph.fit(undefined, 24)
  else if (event.key === 'Escape') pick('')
  else return
  event.preventDefault()
}

function save(name: string, href: string): void {
  const link = document.createElement('a')
  link.href = href
  link.download = name
  link.click()
}
const savePng = (): void =>
  save(
    'map.png',
    graph?.png({ full: true, scale: 2, maxWidth: 8000, maxHeight: 8000, bg: colours.value['background'] ?? '' }) ?? '',
  )
/** The map as it is drawn now, as text of a picture that scales. */
function svgText(): string {
  if (!graph) return ''
  const boxOf = (node: cytoscape.NodeSingular) => ({ ...node.position(), width: node.width(), height: node.height() })
  const frames = graph.nodes('[kind="site"]').map((node) => {
    const { x1, y1, w, h } = node.boundingBox({ includeLabels: false })
    return { label: String(node.data('name')), x: x1 + w / 2, y: y1 + h / 2, width: w, height: h }
  })
  const nodes = graph.nodes('[kind!="site"]').map((node) => {
    const name = String(node.data('name'))
    const device = byName.value.get(name)
    return {
      label: name,
      note: device?.down
        ? t('estate.notReached')
        : device
          ? countOf(shown.value, device, loads.value.get(device.name))
          : '',
      ...boxOf(node),
      mark: marked(name),
    }
  })
  const lines = graph.edges().map((edge) => {
    const link = view.value?.links[Number(edge.data('link'))]
    const { title } = STANDINGS[link?.standing ?? 'agreed']
    const { line, colour, width } = lineOf(link)
    const [from, to] = [edge.source().position(), edge.target().position()]
    const between = edge.data('shares') === undefined ? [edge.midpoint()] : edge.segmentPoints()
    return {
      points: [from, ...(between ?? []), to].map(({ x, y }) => [x, y] as const),
      line,
      colour,
      width,
      title: `${link?.a.device} ${link?.a.port ?? ''} – ${link?.b.device} ${link?.b.port ?? ''}: ${title}`,
    }
  })
  return svgOf(
    t('estate.mapOf', { title: engagement.view?.title ?? '', title2: engagement.b?.title ?? '' }),
    nodes,
    frames,
    lines,
    colours.value,
  )
}
/* A board that scrolls cannot be printed: paper gets the picture. */
const paper = useTemplateRef<HTMLElement>('paper')
watch(
  usePrinting(),
  (printing) => {
    const picture =
      printing && graph ? [new DOMParser().parseFromString(svgText(), 'image/svg+xml').documentElement] : []
    paper.value?.replaceChildren(...picture)
  },
  { flush: 'sync' },
)
function saveSvg(): void {
  if (!graph) return
  const url = URL.createObjectURL(new Blob([svgText()], { type: 'image/svg+xml' }))
  save('map.svg', url)
  URL.revokeObjectURL(url)
}
const pickedDevice = computed<MapDevice | null>(() => byName.value.get(picked.value) ?? null)
const wordsOfPicked = computed(() =>
  pickedDevice.value
    ? `${pickedDevice.value.name}, ${markOf(shown.value, pickedDevice.value, now, segment.value).word}`
    : picked.value,
)
</script>

<template>
  <div class="page map-page">
    <EstateHead
      :note="
        view && view.devices.length > 0
          ? $t('estate.devicesLinksAsOf', {
              devices: view.devices.length,
              links: view.links.length,
              title: engagement.b?.title,
            })
          : ''
      "
    >
      <v-btn-toggle
        v-model="side"
        mandatory
        density="compact"
        variant="outlined"
        color="primary"
        :aria-label="$t('common.view')"
        ><v-btn value="map" size="small">{{ $t('estate.map') }}</v-btn
        ><v-btn value="links" size="small">{{ $t('estate.linksTitle') }}</v-btn></v-btn-toggle
      >
    </EstateHead>
    <ProblemNote :text="problem || undrawn" />
    <ReadingNote :reading="reading" @stop="stop" />
    <EmptyPage
      v-if="view && view.devices.length === 0"
      :title="$t('estate.noMapYet')"
      :text="$t('estate.theMapShowsImportedDevices')"
      ><v-btn variant="flat" :to="`/e/${engagement.id}/snapshots`">{{
        $t('common.importConfigurations')
      }}</v-btn></EmptyPage
    >
    <LinkTable v-else-if="view && side === 'links'" :links="view.links" :devices="view.devices" />
    <div v-else-if="view" class="layout">
      <section class="panel board">
        <div class="tools">
          <v-select
            v-model="overlay"
            :items="OVERLAYS.map(({ id, title }) => ({ value: id, title }))"
            :label="$t('estate.overlay')"
            hide-details
            class="overlay"
          />
          <v-autocomplete
            v-if="shown === 'segment'"
            :model-value="segment"
            :items="segments"
            :label="$t('estate.vlanOrSubnet')"
            :no-data-text="$t('estate.noVlansOrSubnets')"
            hide-details
            class="overlay"
            @update:model-value="(chosen: string | null) => (segmentAsked = chosen ?? '')"
          />
          <span v-if="shown === 'load' && engagement.a" class="quiet">{{
            $t('estate.since', { title: engagement.a.title })
          }}</span>
          <span class="grow" />
          <v-btn size="small" variant="text" @click="graph?.fit(undefined, 24)">{{ $t('estate.fitToPage') }}</v-btn>
          <v-btn size="small" variant="text" @click="saveSvg">SVG</v-btn>
          <v-btn size="small" variant="text" @click="savePng">PNG</v-btn>
        </div>
        <div class="sheet">
          <div
            ref="holder"
            class="holder"
            tabindex="0"
            role="application"
            :aria-label="$t('estate.mapOfTheEstateArrow')"
            @keydown="onKey"
          />
          <div ref="paper" class="on-paper" />
          <p v-if="laying" class="laying panel" role="status">
            {{ $t('estate.layingTheMapOut') }}
            <v-btn
              size="small"
              variant="text"
              @click="((stopping as AbortController | null)?.abort(), (laying = false))"
              >{{ $t('common.stop') }}</v-btn
            >
          </p>
        </div>
        <ul class="legend" :aria-label="$t('estate.legend')">
          <li v-for="{ mark, count } in legend" :key="mark.word">
            <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true" :style="{ color: colours[mark.colour] }">
              <g :fill="mark.filled ? 'currentColor' : 'none'" stroke="currentColor" stroke-width="2">
                <ellipse v-if="mark.shape === 'ellipse'" cx="7" cy="7" rx="5" ry="5" />
                <path v-else-if="mark.shape === 'diamond'" d="M7 1 13 7 7 13 1 7Z" />
                <path v-else-if="mark.shape === 'triangle'" d="M7 2 13 12 1 12Z" />
                <path v-else-if="mark.shape === 'pentagon'" d="M7 1 13 6 11 13 3 13 1 6Z" />
                <rect v-else x="2" y="2" width="10" height="10" :rx="mark.shape === 'rectangle' ? 0 : 3" />
              </g>
            </svg>
            {{ mark.word }} <b>{{ count }}</b>
          </li>
          <li class="gap" aria-hidden="true" />
          <li v-for="one in shown === 'load' ? [] : standings" :key="one.id">
            <svg width="30" height="8" aria-hidden="true">
              <line
                x1="1"
                y1="4"
                x2="29"
                y2="4"
                :stroke="colours[one.colour]"
                :stroke-width="one.width"
                :stroke-dasharray="{ solid: undefined, dashed: '7 4', dotted: '2 3' }[one.line]"
              />
            </svg>
            {{ one.title }} <b>{{ one.count }}</b>
          </li>
        </ul>
      </section>
      <p class="sr" aria-live="polite">{{ wordsOfPicked }}</p>
      <MapDetail :name="picked" :device="pickedDevice" :links="view.links" :overlay="shown" @pick="pick" />
    </div>
  </div>
</template>

<style scoped>
.map-page {
  display: flex;
  flex-direction: column;
  min-height: 100%;
}
.layout {
  flex: 1;
  min-height: 420px;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 14px;
}
.board {
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.tools {
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 6px 8px;
  border-bottom: var(--hair);
}
.overlay {
  max-width: 260px;
}
.grow {
  flex: 1;
}
.sheet {
  position: relative;
  flex: 1;
  min-height: 300px;
  background: rgb(var(--v-theme-background));
}
.holder {
  position: absolute;
  inset: 0;
}
.on-paper {
  display: none;
}
@media print {
  .holder {
    display: none;
  }
  .on-paper {
    display: block;
  }
  .on-paper :deep(svg) {
    width: 100%;
    height: auto;
  }
}
.laying {
  position: absolute;
  left: 50%;
  top: 40%;
  transform: translateX(-50%);
  padding: 8px 16px;
}
.legend {
  list-style: none;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin: 0;
  padding: 6px 12px;
  border-top: var(--hair);
  font-size: 12.5px;
}
.legend li {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.legend b {
  font-weight: 600;
}
.gap {
  width: 8px;
}
@media (max-width: 1000px) {
  .layout {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
