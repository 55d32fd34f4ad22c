import { expect } from 'chai'
import type { Picture } from '@jurybox/core/forwarding'
import type { MapView } from '@jurybox/api/estate'
import { drawingOf, mapAround } from '../src/traffic/path-drawing.ts'

const device = (name: string, site: string | null = null): MapView['devices'][number] =>
  ({ name, site }) as MapView['devices'][number]
const link = (a: string, b: string): MapView['links'][number] =>
  ({ a: { device: a, inEstate: true }, b: { device: b, inEstate: true } }) as MapView['links'][number]
const VIEW: MapView = {
  devices: [device('a', 'ops'), device('b', 'ops'), device('c'), device('far')],
  links: [link('a', 'b'), link('b', 'c'), link('c', 'far')],
  sites: [{ name: 'ops', title: 'Operations' } as MapView['sites'][number]],
}
const PICTURE: Picture = {
  begins: ['a'],
  links: [
    {
      from: { device: 'a', port: 'p1' },
      to: { device: 'b', port: 'p1' },
      fates: ['arrives', 'stopped'],
      layers: ['IPsec by X', 'MACsec'],
    },
    { from: { device: 'a', port: 'p2' }, to: { device: 'b', port: 'p2' }, fates: ['arrives'], layers: ['MACsec'] },
    { from: { device: 'b', port: 'q' }, to: { device: 'c', port: 'q' }, fates: ['arrives'], layers: [] },
  ],
  ends: [
    { device: 'c', fates: ['arrives'] },
    { device: 'b', fates: ['stopped'] },
  ],
}
const POSITIONS = new Map([
  ['device a', { x: 0, y: 0 }],
  ['device b', { x: 300, y: 0 }],
  ['device c', { x: 300, y: 200 }],
  ['device far', { x: 600, y: 200 }],
])

describe('the drawing of paths', () => {
  it('shows the devices by which packets come, or the whole estate, with the links between them', () => {
    expect(mapAround(PICTURE, VIEW, false)).to.deep.include({
      devices: VIEW.devices.slice(0, 3),
      links: VIEW.links.slice(0, 2),
    })
    expect(mapAround(PICTURE, VIEW, true).devices).to.have.length(4)
  })

  const drawn = drawingOf(PICTURE, VIEW, POSITIONS)
  it('draws a line for each way and fate, beside each other, and what protects all of its ports', () => {
    expect(drawn.paths.map(({ fate, layers }) => [fate, layers])).to.deep.equal([
      ['arrives', ['MACsec']],
      ['stopped', ['IPsec by X', 'MACsec']],
      ['arrives', []],
    ])
    const [first, second] = drawn.paths
    expect(Math.abs((first?.from.y ?? 0) - (second?.from.y ?? 0))).to.be.above(9)
    expect(drawn.paths[0]?.title)
      .to.contain('a p1 to b p1, arrives: IPsec by X; MACsec')
      .and.contain('a p2 to b p2, arrives: MACsec')
    expect(drawn.paths.map((path) => path.first)).to.deep.equal([true, false, true])
    expect(drawn.paths[2]).to.include({ angle: 90 })
  })

  it('lines begin and end at the edges of boxes, and marks lie between', () => {
    for (const { from, to, middle } of drawn.paths.slice(0, 1)) {
      expect(from.x).to.be.above(0)
      expect(to.x).to.be.below(450)
      expect(middle.x).to.be.within(from.x, to.x)
    }
  })

  it('tells where packets begin and end, and frames sites; links that nothing takes are drawn plainly', () => {
    expect(drawn.devices.map(({ name, on, begins, fates }) => [name, on, begins, fates])).to.deep.equal([
      ['a', true, true, []],
      ['b', true, false, ['stopped']],
      ['c', true, false, ['arrives']],
      ['far', false, false, []],
    ])
    expect(drawn.frames.map(({ label }) => label)).to.deep.equal(['Operations'])
    expect(drawn.links).to.deep.equal([{ from: { x: 450, y: 250 }, to: { x: 900, y: 250 } }])
    for (const { x, y, width } of drawn.devices)
      expect(
        x - width / 2 > drawn.left &&
          x + width / 2 < drawn.left + drawn.width &&
          y > drawn.top &&
          y < drawn.top + drawn.height,
      ).to.equal(true)
  })

  it('a device that the map does not know is left out', () => {
    const strange: Picture = {
      ...PICTURE,
      links: [
        { from: { device: 'a', port: null }, to: { device: 'nobody', port: null }, fates: ['leaves'], layers: [] },
      ],
    }
    expect(drawingOf(strange, VIEW, POSITIONS).paths).to.deep.equal([])
  })
})
