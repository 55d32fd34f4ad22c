import { t } from '../messages/index.ts'
import type { MapView } from '@jurybox/api/estate'
import type { Fate } from '@jurybox/core'
import type { Picture } from '@jurybox/core/forwarding'
import type { Laid } from '../estate/map-layout.ts'
import { FATES } from './packet-words.ts'

interface Point {
  readonly x: number
  readonly y: number
}
export interface DrawnDevice extends Point {
  readonly name: string
  readonly width: number
  /** Whether packets come by. */
  readonly on: boolean
  readonly begins: boolean
  /** Fates that packets meet here. */
  readonly fates: readonly Fate[]
}
export interface DrawnPath {
  readonly from: Point
  readonly to: Point
  readonly middle: Point
  /** Degrees, clockwise from the right. */
  readonly angle: number
  readonly fate: Fate
  readonly layers: readonly string[]
  readonly title: string
  /** Where its layers are named: beside it; said once between two devices. */
  readonly label: Point
  readonly first: boolean
}
export interface PathDrawing {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
  readonly frames: readonly {
    readonly label: string
    readonly x: number
    readonly y: number
    readonly width: number
    readonly height: number
  }[]
  readonly links: readonly { readonly from: Point; readonly to: Point }[]
  readonly paths: readonly DrawnPath[]
  readonly devices: readonly DrawnDevice[]
}

const HEIGHT = 26
/** Boxes with their fates are wider than those that the layout places. */
const SPREAD = { x: 1.5, y: 1.25 }
/** Between lines beside each other, and for each layer around one. */
const APART = { lines: 9, layers: 6 }
const MARGIN = 26
/** Where marks stand from the middle of their lines, in turn. */
const MARKS = [0, -0.16, 0.16, -0.3, 0.3]

/**
 * The devices that a picture shows, and the links of the estate between them.
 * @param whole all devices of the estate, not those alone by which packets come
 */
export function mapAround(picture: Picture, view: MapView, whole: boolean): MapView {
  const named = new Set([
    ...picture.begins,
    ...picture.ends.map(({ device }) => device),
    ...picture.links.flatMap(({ from, to }) => [from.device, to.device]),
  ])
  const shown = whole ? new Set(view.devices.map(({ name }) => name)) : named
  return {
    ...view,
    devices: view.devices.filter(({ name }) => shown.has(name)),
    links: view.links.filter(({ a, b }) => a.inEstate && b.inEstate && shown.has(a.device) && shown.has(b.device)),
  }
}

/** Where everything stands: devices in the frames of their sites, one line for each way and fate beside each other. */
export function drawingOf(picture: Picture, view: MapView, positions: Laid['positions']): PathDrawing {
  const at = (name: string): Point | undefined => {
    const point = positions.get(`device ${name}`)
    return point && { x: point.x * SPREAD.x, y: point.y * SPREAD.y }
  }
  const ends = new Map(picture.ends.map(({ device, fates }) => [device, fates]))
  const on = new Set([
    ...picture.begins,
    ...ends.keys(),
    ...picture.links.flatMap(({ from, to }) => [from.device, to.device]),
  ])
  const devices = view.devices.flatMap(({ name }): DrawnDevice[] => {
    const point = at(name)
    return point
      ? [
          {
            name,
            ...point,
            width: name.length * 7.6 + 18 + 21 * (ends.get(name)?.length ?? 0),
            on: on.has(name),
            begins: picture.begins.includes(name),
            fates: ends.get(name) ?? [],
          },
        ]
      : []
  })
  const byName = new Map(devices.map((device) => [device.name, device]))
  const taken = new Map<string, number>()
  const ways = merged(picture)
  /** How thick the thickest line between two devices is. */
  const thickness = new Map<string, number>()
  const counts = new Map<string, number>()
  for (const { from, to } of ways) counts.set(pairOf(from, to), (counts.get(pairOf(from, to)) ?? 0) + 1)
  for (const { from, to, layers } of ways)
    thickness.set(pairOf(from, to), Math.max(thickness.get(pairOf(from, to)) ?? 0, layers.length))
  const paths = ways.flatMap(({ from, to, fate, layers, title }): DrawnPath[] => {
    const [a, b] = [byName.get(from), byName.get(to)]
    if (!a || !b || a === b) return []
    const pair = pairOf(from, to)
    const number = taken.get(pair) ?? 0
    taken.set(pair, number + 1)
    // The first in the middle, the others on either side; the side does not turn with the way.
    const aside =
      Math.ceil(number / 2) *
      (number % 2 === 0 ? 1 : -1) *
      (APART.lines + APART.layers * (thickness.get(pair) ?? 0)) *
      (from < to ? 1 : -1)
    const [dx, dy] = [b.x - a.x, b.y - a.y]
    const length = Math.hypot(dx, dy) || 1
    const shift = { x: (-dy / length) * aside, y: (dx / length) * aside }
    const [start, end] = [edgeOf(a, b, shift), edgeOf(b, a, shift)]
    // Marks of lines beside each other stand apart along them.
    const along = 0.5 + (from < to ? 1 : -1) * (MARKS[number % MARKS.length] ?? 0)
    const middle = { x: start.x + (end.x - start.x) * along, y: start.y + (end.y - start.y) * along }
    const beside =
      10 +
      APART.layers * layers.length +
      (APART.lines + APART.layers * layers.length) * Math.max(0, (counts.get(pair) ?? 1) - 1)
    const side = Math.abs(dy) > Math.abs(dx) * 0.5 ? { x: beside, y: 0 } : { x: 0, y: -beside - 4 }
    return [
      {
        from: start,
        to: end,
        middle,
        label: { x: middle.x + side.x, y: middle.y + side.y },
        first: number === 0,
        angle: (Math.atan2(end.y - start.y, end.x - start.x) * 180) / Math.PI,
        fate,
        layers,
        title,
      },
    ]
  })
  const links = view.links.flatMap(({ a, b }) => {
    const [from, to] = [at(a.device), at(b.device)]
    return from && to && !taken.has(pairOf(a.device, b.device)) ? [{ from, to }] : []
  })
  const frames = framesOf(view, byName)
  const boxes = [
    ...frames,
    ...devices.map(({ x, y, width }) => ({ x: x - width / 2, y: y - HEIGHT / 2, width: width + 40, height: HEIGHT })),
  ]
  const [left, top] = [
    Math.min(...boxes.map(({ x }) => x), 0) - MARGIN,
    Math.min(...boxes.map(({ y }) => y), 0) - MARGIN,
  ]
  return {
    left,
    top,
    width: Math.max(...boxes.map(({ x, width }) => x + width), 0) + MARGIN - left,
    height: Math.max(...boxes.map(({ y, height }) => y + height), 0) + MARGIN - top,
    frames,
    links,
    paths,
    devices,
  }
}

function pairOf(a: string, b: string): string {
  return [a, b].sort().join(' ')
}

/**
 * One entry for each way between two devices and each fate; what protects one of several ports is said where it
 * protects all.
 */
function merged(picture: Picture): { from: string; to: string; fate: Fate; layers: string[]; title: string }[] {
  const found = new Map<string, { from: string; to: string; fate: Fate; layers: string[]; title: string }>()
  for (const { from, to, fates, layers } of picture.links) {
    for (const fate of FATES.filter((one) => fates.includes(one))) {
      const title = t('traffic.layersOf', {
        device: from.device,
        from: from.port ?? '',
        device2: to.device,
        to: to.port ?? '',
        fate,
        layers: layers.join('; ') || t('traffic.unprotected'),
      })
      const key = `${from.device} ${to.device} ${fate}`
      const held = found.get(key)
      if (!held) found.set(key, { from: from.device, to: to.device, fate, layers: [...layers], title })
      else {
        held.layers = held.layers.filter((one) => layers.includes(one))
        held.title += `\n${title}`
      }
    }
  }
  return [...found.values()]
}

/** Where a line from the middle of a device towards another leaves its box. */
function edgeOf(of: DrawnDevice, towards: DrawnDevice, shift: Point): Point {
  const [dx, dy] = [towards.x - of.x, towards.y - of.y]
  const scale = Math.min(
    dx === 0 ? Infinity : (of.width / 2 + 4) / Math.abs(dx),
    dy === 0 ? Infinity : (HEIGHT / 2 + 4) / Math.abs(dy),
    0.45,
  )
  return { x: of.x + dx * scale + shift.x, y: of.y + dy * scale + shift.y }
}

function framesOf({ devices, sites }: MapView, byName: ReadonlyMap<string, DrawnDevice>): PathDrawing['frames'] {
  const titles = new Map(sites.map(({ name, title }) => [name, title]))
  const bySite = new Map<string, DrawnDevice[]>()
  for (const { name, site } of devices) {
    const device = byName.get(name)
    if (site !== null && device) bySite.set(site, [...(bySite.get(site) ?? []), device])
  }
  return [...bySite].map(([site, all]) => {
    const [left, top] = [
      Math.min(...all.map(({ x, width }) => x - width / 2)) - 14,
      Math.min(...all.map(({ y }) => y)) - HEIGHT / 2 - 24,
    ]
    return {
      label: titles.get(site) ?? site,
      x: left,
      y: top,
      width: Math.max(...all.map(({ x, width }) => x + width / 2)) + 14 - left,
      height: Math.max(...all.map(({ y }) => y)) + HEIGHT / 2 + 12 - top,
    }
  })
}
