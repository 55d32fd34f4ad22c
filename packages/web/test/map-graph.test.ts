import { expect } from 'chai'
import fc from 'fast-check'
import type { MapDevice, MapView } from '@jurybox/api/estate'
import { placeByLevels, type Place } from '../src/estate/map-levels.ts'
import {
  LEGENDS,
  OVERLAYS,
  graphOf,
  isInSegment,
  lineOfLoad,
  loadOf,
  loadOfDevice,
  markOf,
  nextTowards,
  segmentsIn,
  svgOf,
} from '../src/estate/map-graph.ts'

const NOW = Date.parse('2026-11-26T12:00:00Z')
const device = (more: Partial<MapDevice>): MapDevice => ({
  id: 1,
  name: 'a',
  site: null,
  role: null,
  down: null,
  takenAt: null,
  changedAt: null,
  changed: 'same',
  counts: {},
  failures: {},
  approved: 'none',
  why: '',
  vlans: [],
  subnets: [],
  anyVlan: false,
  ...more,
})
const end = (name: string, inEstate = true) => ({ device: name, inEstate, port: 'p', oper: null, at: null })

describe('what the map tells of a device', () => {
  const cases: [overlay: (typeof OVERLAYS)[number]['id'], of: Partial<MapDevice>, word: string][] = [
    ['verdicts', { counts: { fail: 3 }, failures: { high: 1, low: 2 } }, 'high-severity failures'],
    ['verdicts', { counts: { fail: 1, unknown: 3 }, failures: { medium: 1 } }, 'medium-severity failures'],
    ['verdicts', { counts: { fail: 1, pass: 9 }, failures: { info: 1 } }, 'low-severity failures'],
    ['verdicts', { counts: { unknown: 1, pass: 9 } }, 'has unknown or unchecked'],
    ['verdicts', { counts: { error: 1 } }, 'has unknown or unchecked'],
    ['verdicts', { counts: { pass: 9, notchecked: 2 } }, 'has unknown or unchecked'],
    ['verdicts', { counts: { pass: 9, notapplicable: 2 } }, 'all pass'],
    ['verdicts', {}, 'not judged'],
    ['evidence', { takenAt: '2026-11-20T12:00:00Z' }, 'within a week'],
    ['evidence', { takenAt: '2026-11-01T12:00:00Z' }, 'within 30 days'],
    ['evidence', { takenAt: '2026-08-24T12:00:00Z' }, 'older than 30 days'],
    ['evidence', {}, 'time unknown'],
    ['approved', { approved: 'off' }, 'not approved'],
    ['approved', { approved: 'unknown' }, 'version unknown'],
    ['changes', { changed: 'new' }, 'new'],
    ['changes', { changed: 'changed' }, 'changed'],
  ]
  for (const [overlay, of, word] of cases)
    it(`${overlay}: ${JSON.stringify(of)} is “${word}”`, () =>
      expect(markOf(overlay, device(of), NOW).word).to.equal(word))
  it('no two marks of a legend have the same shape and filling: colour alone tells nothing', () => {
    for (const marks of Object.values(LEGENDS))
      expect(new Set(marks.map(({ shape, filled }) => `${shape} ${filled}`)).size).to.equal(marks.length)
  })
})

describe('the segments of the map', () => {
  const devices = [
    device({ name: 'a', vlans: [30, 7], subnets: ['10.0.10.0/24'] }),
    device({ name: 'b', vlans: [30], subnets: ['10.0.9.0/24', '10.0.10.0/24'], anyVlan: true }),
  ]
  it('are VLANs by their ids, then subnets by their numbers, each once', () =>
    expect(segmentsIn(devices)).to.deep.equal(['VLAN 7', 'VLAN 30', '10.0.9.0/24', '10.0.10.0/24']))
  it('are undecided where a trunk names no VLANs, and never of subnets', () => {
    expect(devices.map((one) => isInSegment(one, 'VLAN 7'))).to.deep.equal([true, 'undecided'])
    expect(devices.map((one) => isInSegment(one, 'VLAN 30'))).to.deep.equal([true, true])
    expect(devices.map((one) => isInSegment(one, '10.0.9.0/24'))).to.deep.equal([false, true])
    expect(devices.map((one) => markOf('segment', one, NOW, 'VLAN 7').word)).to.deep.equal([
      'has a part in it',
      'trunk without a list of VLANs',
    ])
  })
})

describe('the graph of the map', () => {
  const sites = [
    { name: 'shore', title: 'On shore', around: null },
    { name: 'qs', title: 'Quay South', around: 'shore' },
    { name: 'empty', title: 'Nobody there', around: null },
  ]
  it('frames sites in sites, leaves out empty ones, and draws whom only neighbours know', () => {
    const { nodes, edges } = graphOf({
      devices: [device({ name: 'a', site: 'qs' }), device({ name: 'b', site: 'unsaid' })],
      links: [{ a: end('a'), b: end('carrier', false), standing: 'untold', note: '' }],
      sites,
    })
    expect(nodes.map(({ id, parent, label }) => [id, parent, label])).to.have.deep.members([
      ['site qs', 'site shore', 'Quay South'],
      ['site shore', undefined, 'On shore'],
      ['site unsaid', undefined, 'unsaid'],
      ['device a', 'site qs', 'a'],
      ['device b', 'site unsaid', 'b'],
      ['stranger carrier', undefined, 'carrier'],
    ])
    expect(edges).to.deep.equal([{ id: 'link 0', source: 'device a', target: 'stranger carrier', link: 0 }])
  })
  it('every end of a link is a node, and every parent too, whatever sites say', () => {
    const name = fc.constantFrom<string>('a', 'b', 'c')
    const site = fc.option(name)
    fc.assert(
      fc.property(
        fc.uniqueArray(name),
        fc.array(fc.tuple(name, name, fc.boolean())),
        fc.uniqueArray(fc.record({ name, title: name, around: site }), { selector: (one) => one.name }),
        site,
        (names, links, places, at) => {
          const view: MapView = {
            devices: ['a', 'b', 'c'].map((one) => device({ name: one, site: names.includes(one) ? at : null })),
            links: links.map(([a, b, known]) => ({ a: end(a), b: end(b, known), standing: 'agreed', note: '' })),
            sites: places,
          }
          const { nodes, edges } = graphOf(view)
          const ids = new Set(nodes.map(({ id }) => id))
          expect(ids.size).to.equal(nodes.length)
          for (const { source, target } of edges) expect(ids.has(source) && ids.has(target)).to.equal(true)
          for (const { parent } of nodes) if (parent !== undefined) expect(ids.has(parent)).to.equal(true)
        },
      ),
    )
  })
})

describe('the layout of the map, level by level', () => {
  const node = (id: string, parent?: string, kind: 'device' | 'site' = 'device') => ({ id, label: id, parent, kind })
  const asked: [string[], readonly (readonly [string, string])[]][] = []
  const inRow: Place = (boxes, links) => {
    asked.push([boxes.map(({ id }) => id), links])
    return new Map(boxes.map(({ id }, i) => [id, { x: i * 10, y: i }]))
  }
  const nodes = [
    node('S', undefined, 'site'),
    node('T', 'S', 'site'),
    node('U', undefined, 'site'),
    node('a', 'T'),
    node('b', 'T'),
    node('c', 'S'),
    node('d', 'U'),
    node('e'),
  ]
  const edge = (source: string, target: string) => ({ id: `${source}${target}`, source, target, link: 0 })
  it('asks for what is in a frame first, and links frames by the links of what they hold', () => {
    asked.length = 0
    const placed = placeByLevels(
      nodes,
      [edge('a', 'b'), edge('a', 'c'), edge('b', 'c'), edge('b', 'd'), edge('c', 'd'), edge('e', 'e')],
      1,
      inRow,
    )
    expect(asked).to.deep.equal([
      [['a', 'b'], [['a', 'b']]],
      [['T', 'c'], [['T', 'c']]],
      [['d'], []],
      [['S', 'U', 'e'], [['S', 'U']]],
    ])
    expect([...placed.keys()].sort()).to.deep.equal(['a', 'b', 'c', 'd', 'e'])
  })
  it('no device lies over another, whatever the forces say', () => {
    const spot = fc.tuple(fc.integer({ min: -50, max: 50 }), fc.integer({ min: -50, max: 50 }))
    fc.assert(
      fc.property(
        fc.uniqueArray(spot, { minLength: 8, maxLength: 8, selector: String }),
        fc.constantFrom(0.5, 1, 1.7),
        (spots, aspect) => {
          let at = 0
          const placed = [
            ...placeByLevels(
              nodes,
              [],
              aspect,
              (boxes) =>
                new Map(
                  boxes.map(({ id }) => [id, { x: (spots[at % 8]?.[0] ?? 0) * 9, y: (spots[at++ % 8]?.[1] ?? 0) * 9 }]),
                ),
            ),
          ]
          for (const [i, [, one]] of placed.entries())
            for (const [, other] of placed.slice(i + 1))
              expect(Math.abs(one.x - other.x) >= 34 || Math.abs(one.y - other.y) >= 34).to.equal(true)
        },
      ),
      { numRuns: 200 },
    )
  })
})

describe('the arrow keys on the map', () => {
  const around = [
    { id: 'right', x: 10, y: 1 },
    { id: 'far right', x: 30, y: 0 },
    { id: 'up', x: 2, y: -10 },
    { id: 'down', x: 0, y: 12 },
  ]
  for (const [key, is] of [
    ['ArrowRight', 'right'],
    ['ArrowUp', 'up'],
    ['ArrowDown', 'down'],
    ['ArrowLeft', null],
  ] as const)
    it(`${key}: ${is}`, () => expect(nextTowards({ x: 0, y: 0 }, around, key)).to.equal(is))
})

describe('the map as SVG', () => {
  it('holds names and titles as text, whatever they are, and nothing that runs', () => {
    const mark = LEGENDS.verdicts[0] ?? null
    const text = svgOf(
      'A & B',
      [{ label: '<script>', note: '2 fail', x: 0, y: 0, width: 10, height: 10, mark }],
      [{ label: '"Quay"', x: 0, y: 0, width: 50, height: 50 }],
      [
        {
          points: [
            [0, 0],
            [5, 5],
          ],
          line: 'dashed',
          colour: 'fail',
          width: 2,
          title: 'a – b',
        },
      ],
      { fail: '#B93A22' },
    )
    expect(text)
      .to.include('&lt;script&gt;</text>')
      .and.include('<title>A &amp; B</title>')
      .and.include('stroke-dasharray')
      .and.include('#B93A22')
      .and.not.include('<script>')
  })
})

describe('utilisation on the map', () => {
  const grown = (delta: number | null) => ({ code: 'counted' as const, delta })
  const rate = (inUse: number | null, outUse: number | null, errors = 0) => ({
    name: 'p',
    inBits: null,
    outBits: null,
    inUse,
    outUse,
    speed: null,
    growth: {
      inOctets: grown(1),
      outOctets: grown(1),
      inErrors: grown(errors),
      outErrors: grown(null),
      inDiscards: grown(0),
      outDiscards: grown(0),
    },
  })
  const word = (...rates: ReturnType<typeof rate>[]): string => markOf('load', device({}), NOW, '', loadOf(rates)).word

  it('the busiest interface counts, and errors come first', () => {
    expect(word(rate(0.1, 0.2), rate(0.71, null))).to.equal('above 70 %')
    expect(word(rate(0.3, 0))).to.equal('30 % to 70 %')
    expect(word(rate(0.29, 0))).to.equal('below 30 %')
    expect(word(rate(0.01, 0), rate(null, null, 4))).to.equal('errors counted')
  })

  it('what was not counted, or has no known speed, is not called idle', () => {
    expect(word()).to.equal('no counters')
    expect(word(rate(null, null))).to.equal('no counters')
    expect(lineOfLoad(loadOf([rate(null, null)]))).to.deep.equal({ line: 'dotted', colour: 'quiet', width: 1.5 })
  })

  it('a sensor that is not ok comes before errors; one that does not say is none', () => {
    const sensor = (ok: boolean | null) => ({ kind: 'fan', name: 'F', before: null, after: '1', difference: null, ok })
    const mark = (rates: ReturnType<typeof rate>[], ...oks: (boolean | null)[]): string =>
      markOf('load', device({}), NOW, '', loadOfDevice({ rates, sensors: oks.map(sensor) })).word
    expect(mark([rate(0.1, 0, 4)], true, false)).to.equal('sensor not ok')
    expect(mark([], false)).to.equal('sensor not ok')
    expect(mark([rate(0.1, 0)], true, null)).to.equal('below 30 %')
    expect(mark([], true)).to.equal('no counters')
  })

  it('a link is the wider the more it carries', () => {
    const width = (use: number): number => lineOfLoad(loadOf([rate(use, 0)])).width
    expect(width(0.9)).to.be.greaterThan(width(0.5)).and.greaterThan(width(0))
    expect(width(3)).to.equal(width(1))
  })
})
