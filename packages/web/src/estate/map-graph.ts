import { t } from '../messages/index.ts'
import type { listRates } from '@jurybox/api/changes'
import type { ResponseOf } from '@jurybox/api/endpoint'
import type { MapDevice, MapView } from '@jurybox/api/estate'
import { shareWords } from '../shared/words.ts'

/** What the map tells of devices by their shapes. */
export const OVERLAYS = [
  { id: 'verdicts', title: t('common.verdicts') },
  { id: 'evidence', title: t('estate.ageOfEvidence') },
  { id: 'approved', title: t('estate.approvedVersions') },
  { id: 'changes', title: t('estate.changesSinceTheSnapshotBefore') },
  { id: 'segment', title: t('estate.vlanOrSubnet') },
  { id: 'load', title: t('estate.utilisation') },
] as const
export type Overlay = (typeof OVERLAYS)[number]['id']

/** A shape and a colour of the theme; the word goes with them always. */
export interface Mark {
  readonly shape: 'ellipse' | 'rectangle' | 'diamond' | 'triangle' | 'round-rectangle' | 'pentagon'
  readonly colour: 'pass' | 'fail' | 'unknown' | 'quiet' | 'primary' | 'brass'
  readonly filled: boolean
  readonly word: string
}

const OPEN = (shape: Mark['shape'], colour: Mark['colour'], word: string): Mark => ({
  shape,
  colour,
  filled: false,
  word,
})
const FULL = (shape: Mark['shape'], colour: Mark['colour'], word: string): Mark => ({
  shape,
  colour,
  filled: true,
  word,
})

/** Marks of an overlay in the order of the legend. */
export const LEGENDS: Readonly<Record<Overlay, readonly Mark[]>> = {
  verdicts: [
    FULL('rectangle', 'fail', t('estate.highFailures')),
    FULL('triangle', 'fail', t('estate.mediumFailures')),
    OPEN('rectangle', 'fail', t('estate.lowFailures')),
    OPEN('diamond', 'unknown', t('estate.hasUnknownOrUnchecked')),
    OPEN('ellipse', 'pass', t('estate.allPass')),
    OPEN('round-rectangle', 'quiet', t('common.notJudged')),
  ],
  evidence: [
    OPEN('ellipse', 'pass', t('estate.withinAWeek')),
    OPEN('round-rectangle', 'brass', t('estate.within30Days')),
    FULL('diamond', 'unknown', t('estate.olderThan30Days')),
    OPEN('pentagon', 'quiet', t('estate.timeUnknown')),
  ],
  approved: [
    OPEN('ellipse', 'pass', t('estate.approvedMark')),
    FULL('rectangle', 'fail', t('estate.notApproved')),
    OPEN('diamond', 'unknown', t('estate.versionUnknown')),
    OPEN('round-rectangle', 'quiet', t('estate.noPolicy')),
  ],
  changes: [
    FULL('triangle', 'primary', 'new'),
    FULL('rectangle', 'brass', 'changed'),
    OPEN('ellipse', 'quiet', t('estate.unchanged')),
  ],
  segment: [
    FULL('rectangle', 'primary', t('estate.inTheSegment')),
    OPEN('diamond', 'unknown', t('estate.mayCarryTheVlan')),
    OPEN('ellipse', 'quiet', t('estate.notInTheSegment')),
  ],
  load: [
    FULL('diamond', 'fail', t('estate.sensorNotOk')),
    FULL('rectangle', 'fail', t('estate.errorsCounted')),
    FULL('triangle', 'fail', t('estate.heavyUse')),
    OPEN('rectangle', 'brass', t('estate.mediumUse')),
    OPEN('ellipse', 'pass', t('estate.lightUse')),
    OPEN('round-rectangle', 'quiet', t('estate.noCounters')),
  ],
}

type Performance = NonNullable<ResponseOf<typeof listRates>>['devices'][number]
type Rates = Performance['rates']

/** What an interface, or the busiest one of a device, carried between two snapshots. */
export interface Load {
  /** Share of the speed from 0 to 1; null where it is not known. */
  readonly use: number | null
  readonly errors: number
  /** Sensors that are not in order; of an interface none. */
  readonly sensors: number
}

/** Of a device; null where nothing was counted and no sensor is known. */
export function loadOfDevice({ rates, sensors }: Pick<Performance, 'rates' | 'sensors'>): Load | null {
  const failing = sensors.filter(({ ok }) => ok === false).length
  const load = loadOf(rates)
  return failing > 0 ? { use: null, errors: 0, ...load, sensors: failing } : load
}

/** The busiest interface, and the errors of all; null where nothing was counted. */
export function loadOf(rates: Rates): Load | null {
  if (rates.length === 0) return null
  const uses = rates.flatMap(({ inUse, outUse }) => [inUse, outUse].filter((use) => use !== null))
  const errors = rates.flatMap(({ growth }) => [growth.inErrors.delta ?? 0, growth.outErrors.delta ?? 0])
  return {
    use: uses.length === 0 ? null : Math.max(...uses),
    errors: errors.reduce((sum, one) => sum + one, 0),
    sensors: 0,
  }
}

/** How a load is drawn as a link: the more it carries, the wider. */
export function lineOfLoad(load: Load | null): {
  readonly line: 'solid' | 'dotted'
  readonly colour: Mark['colour']
  readonly width: number
} {
  if (load === null || (load.use === null && load.errors === 0)) return { line: 'dotted', colour: 'quiet', width: 1.5 }
  const mark = markOfLoad(load)
  return { line: 'solid', colour: mark.colour, width: 1.5 + 7 * Math.min(1, load.use ?? 0) }
}

const NO_COUNTERS = OPEN('round-rectangle', 'quiet', t('estate.noCounters'))

function markOfLoad(load: Load | null): Mark {
  const legend = LEGENDS.load
  if (load !== null && load.sensors > 0) return legend[0] ?? NO_COUNTERS
  const place =
    load === null ? 5 : load.errors > 0 ? 1 : load.use === null ? 5 : load.use > 0.7 ? 2 : load.use >= 0.3 ? 3 : 4
  return legend[place] ?? NO_COUNTERS
}

/** VLANs and subnets of the estate, as the map offers them: VLANs by their ids, then subnets. */
export function segmentsIn(devices: readonly MapDevice[]): string[] {
  const vlans = [...new Set(devices.flatMap((device) => device.vlans))].sort((a, b) => a - b)
  const subnets = [...new Set(devices.flatMap((device) => device.subnets))]
  return [...vlans.map((id) => `VLAN ${id}`), ...subnets.sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))]
}

/** Whether a device has a part in a segment; undecided where a trunk of it names no VLANs. */
export function isInSegment({ vlans, subnets, anyVlan }: MapDevice, segment: string): boolean | 'undecided' {
  const vlan = /^VLAN (\d+)$/.exec(segment)?.[1]
  if (vlan === undefined) return subnets.includes(segment)
  return vlans.includes(Number(vlan)) || (anyVlan ? 'undecided' : false)
}

const DAY_MS = 86_400_000

/**
 * The mark of a device.
 * @param now milliseconds since 1970
 * @param segment for the overlay of one
 * @param load for the overlay of utilisation
 */
export function markOf(overlay: Overlay, device: MapDevice, now: number, segment = '', load: Load | null = null): Mark {
  const legend = LEGENDS[overlay]
  const at = (i: number): Mark => legend[i] ?? OPEN('round-rectangle', 'quiet', '')
  switch (overlay) {
    case 'verdicts': {
      const { fail = 0, unknown = 0, error = 0, notchecked = 0, pass = 0 } = device.counts
      if (fail > 0) return at({ high: 0, medium: 1, low: 2, info: 2 }[worstOf(device) ?? 'low'])
      return unknown + error + (pass > 0 ? notchecked : 0) > 0 ? at(3) : pass > 0 ? at(4) : at(5)
    }
    case 'evidence': {
      if (device.takenAt === null) return at(3)
      const days = (now - Date.parse(device.takenAt)) / DAY_MS
      return days < 7 ? at(0) : days < 30 ? at(1) : at(2)
    }
    case 'approved':
      return at({ on: 0, off: 1, unknown: 2, none: 3 }[device.approved])
    case 'changes':
      return at({ new: 0, changed: 1, same: 2 }[device.changed])
    case 'segment': {
      const part = isInSegment(device, segment)
      return part === 'undecided' ? at(1) : part ? at(0) : at(2)
    }
    case 'load':
      return markOfLoad(load)
  }
}

const SEVERITIES = ['high', 'medium', 'low', 'info'] as const

/** The gravest severity among the failures of a device; null where nothing fails. */
export function worstOf({ failures }: MapDevice): (typeof SEVERITIES)[number] | null {
  return SEVERITIES.find((severity) => (failures[severity] ?? 0) > 0) ?? null
}

/** What stands beside the name: how many failures of the gravest severity, or what is unknown. */
export function countOf(overlay: Overlay, device: MapDevice, load: Load | null = null): string {
  if (overlay === 'load') return load === null || load.use === null ? '' : shareWords(load.use)
  if (overlay !== 'verdicts') return ''
  const { fail = 0, unknown = 0 } = device.counts
  const worst = worstOf(device)
  if (worst !== null) return t('estate.failCount', { n: device.failures[worst] ?? 0, severity: worst })
  return fail > 0 ? `${fail} fail` : unknown > 0 ? `${unknown} unknown` : ''
}

export const STANDINGS: Readonly<
  Record<
    MapView['links'][number]['standing'],
    {
      readonly title: string
      readonly line: 'solid' | 'dashed' | 'dotted'
      readonly colour: Mark['colour'] | 'on-surface'
      readonly width: number
    }
  >
> = {
  agreed: { title: t('estate.seenFromBothEnds'), line: 'solid', colour: 'on-surface', width: 1.5 },
  'one-sided': { title: t('estate.seenFromOneEnd'), line: 'dashed', colour: 'unknown', width: 2.5 },
  disagreeing: { title: t('estate.endsDisagree'), line: 'dashed', colour: 'fail', width: 3 },
  untold: { title: t('estate.otherEndNotCaptured'), line: 'dotted', colour: 'quiet', width: 1.5 },
  subnet: { title: t('estate.fromASharedSubnet'), line: 'dotted', colour: 'on-surface', width: 1.5 },
}

export interface GraphNode {
  readonly id: string
  readonly label: string
  readonly parent: string | undefined
  readonly kind: 'device' | 'stranger' | 'site'
}
export interface GraphEdge {
  readonly id: string
  readonly source: string
  readonly target: string
  readonly link: number
}

/** Devices in the frames of their sites, frames in frames; devices that only neighbours know stand outside. */
export function graphOf({ devices, links, sites }: MapView): { nodes: GraphNode[]; edges: GraphEdge[] } {
  const named = new Map(sites.map((site) => [site.name, site]))
  const used = new Set<string>()
  for (const { site } of devices)
    for (let at = site; at !== null && !used.has(at); at = named.get(at)?.around ?? null) used.add(at)
  const frames = [...used].map((name): GraphNode => {
    const around = named.get(name)?.around ?? null
    return {
      id: `site ${name}`,
      label: named.get(name)?.title ?? name,
      parent: around !== null && used.has(around) && around !== name ? `site ${around}` : undefined,
      kind: 'site',
    }
  })
  const strangers = [
    ...new Set(
      links
        .flatMap(({ a, b }) => [a, b])
        .filter(({ inEstate }) => !inEstate)
        .map(({ device }) => device),
    ),
  ]
  return {
    nodes: [
      ...frames,
      ...devices.map(({ name, site }): GraphNode => ({
        id: `device ${name}`,
        label: name,
        parent: site === null ? undefined : `site ${site}`,
        kind: 'device',
      })),
      ...strangers.map((name): GraphNode => ({
        id: `stranger ${name}`,
        label: name,
        parent: undefined,
        kind: 'stranger',
      })),
    ],
    edges: links.map(({ a, b }, link): GraphEdge => ({
      id: `link ${link}`,
      source: `device ${a.device}`,
      target: `${b.inEstate ? 'device' : 'stranger'} ${b.device}`,
      link,
    })),
  }
}

/** The nearest node in a direction, for the arrow keys. */
export function nextTowards(
  from: { readonly x: number; readonly y: number },
  others: readonly { readonly id: string; readonly x: number; readonly y: number }[],
  key: string,
): string | null {
  const directions: Readonly<Record<string, readonly [number, number]>> = {
    ArrowRight: [1, 0],
    ArrowLeft: [-1, 0],
    ArrowDown: [0, 1],
    ArrowUp: [0, -1],
  }
  const [dx, dy] = directions[key] ?? [0, 0]
  let best: string | null = null
  let least = Infinity
  for (const { id, x, y } of others) {
    const along = (x - from.x) * dx + (y - from.y) * dy
    const aside = Math.abs((x - from.x) * dy) + Math.abs((y - from.y) * dx)
    if (along <= 0 || aside > 2 * along) continue
    const far = along + 2 * aside
    if (far < least) [best, least] = [id, far]
  }
  return best
}

export interface DrawnNode {
  readonly label: string
  readonly note: string
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
  readonly mark: Mark | null
}
export interface DrawnFrame {
  readonly label: string
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}
export interface DrawnLine {
  readonly points: readonly (readonly [x: number, y: number])[]
  readonly line: 'solid' | 'dashed' | 'dotted'
  readonly colour: string
  readonly width: number
  readonly title: string
}

const DASHES = { solid: '', dashed: '7 4', dotted: '2 4' } as const

/** A length in the picture: a tenth of a pixel is fine enough. */
const n = (value: number): string => value.toFixed(1)

/** @param content markup, or text that is escaped already */
function element(name: string, attributes: Readonly<Record<string, string | number>>, content = ''): string {
  const stated = Object.entries(attributes).map(
    ([key, value]) => ` ${key}="${typeof value === 'number' ? n(value) : escaped(value)}"`,
  )
  return `<${name}${stated.join('')}>${content}</${name}>`
}

const escaped = (text: string): string =>
  text.replace(/[&<>"]/g, (char) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[char] ?? char)

/** The map as SVG, its words as text. Coordinates are those of the map. */
export function svgOf(
  title: string,
  nodes: readonly DrawnNode[],
  frames: readonly DrawnFrame[],
  lines: readonly DrawnLine[],
  colours: Readonly<Record<string, string>>,
): string {
  const edges = [...nodes, ...frames].flatMap(
    ({ x, y, width, height }) =>
      [
        [x - width / 2, y - height / 2],
        [x + width / 2, y + height / 2 + 26],
      ] as const,
  )
  const [left, top] = [Math.min(0, ...edges.map(([x]) => x)) - 20, Math.min(0, ...edges.map(([, y]) => y)) - 20]
  const [right, bottom] = [Math.max(0, ...edges.map(([x]) => x)) + 20, Math.max(0, ...edges.map(([, y]) => y)) + 20]
  const ink = colours['on-surface'] ?? '#000'
  const quiet = colours['quiet'] ?? ink
  const surface = colours['surface'] ?? '#fff'
  const shapeOf = ({ x, y, width, height, mark }: DrawnNode): string => {
    const colour = mark ? (colours[mark.colour] ?? ink) : ink
    const paint = { fill: mark?.filled ? colour : surface, stroke: colour, 'stroke-width': 2 }
    const [l, t, r, b] = [x - width / 2, y - height / 2, x + width / 2, y + height / 2]
    if (mark?.shape === 'ellipse') return element('ellipse', { cx: x, cy: y, rx: width / 2, ry: height / 2, ...paint })
    if (mark?.shape === 'diamond') {
      return element('path', { d: `M${n(x)} ${n(t)}L${n(r)} ${n(y)}L${n(x)} ${n(b)}L${n(l)} ${n(y)}Z`, ...paint })
    }
    if (mark?.shape === 'triangle') {
      return element('path', { d: `M${n(x)} ${n(t)}L${n(r)} ${n(b)}L${n(l)} ${n(b)}Z`, ...paint })
    }
    return element('rect', { x: l, y: t, width, height, rx: mark?.shape === 'rectangle' ? 0 : 4, ...paint })
  }
  const size = { width: right - left, height: bottom - top }
  const drawn = [
    element('title', {}, escaped(title)),
    element('rect', { x: left, y: top, ...size, fill: colours['background'] ?? '#fff' }),
    ...frames.map(({ label, x, y, width, height }) => {
      const [l, t] = [x - width / 2, y - height / 2]
      const box = element('rect', { x: l, y: t, width, height, rx: 3, fill: 'none', stroke: colours['rule'] ?? ink })
      return element('g', {}, box + element('text', { x: l + 6, y: t + 15, fill: quiet }, escaped(label)))
    }),
    ...lines.map(({ points, line, colour, width, title: said }) =>
      element(
        'polyline',
        {
          points: points.map(([x, y]) => `${n(x)},${n(y)}`).join(' '),
          fill: 'none',
          stroke: colours[colour] ?? ink,
          'stroke-width': width,
          ...(DASHES[line] === '' ? {} : { 'stroke-dasharray': DASHES[line] }),
        },
        element('title', {}, escaped(said)),
      ),
    ),
    ...nodes.map((node) => {
      const below = (y: number, fill: string, words: string, more = {}): string =>
        element('text', { x: node.x, y: node.y + node.height / 2 + y, 'text-anchor': 'middle', fill, ...more }, words)
      const note = node.note ? below(27, quiet, escaped(node.note), { 'font-size': 10.5 }) : ''
      return element('g', {}, shapeOf(node) + below(14, ink, escaped(node.label)) + note)
    }),
  ]
  return element(
    'svg',
    {
      xmlns: 'http://www.w3.org/2000/svg',
      viewBox: [left, top, size.width, size.height].map(n).join(' '),
      ...size,
      'font-family': "'Source Sans 3', sans-serif",
      'font-size': 12,
    },
    `\n${drawn.join('\n')}\n`,
  )
}
