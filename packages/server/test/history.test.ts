import { expect } from 'chai'
import fc from 'fast-check'
import { sideBySide, recordStatesOf } from '../src/archive/history.ts'
import { makeWorld, type World } from './world.ts'

describe('the history of a record', () => {
  const seen = (record: number, fingerprint: string, at: string) => ({
    record,
    kind: 'config',
    fingerprint,
    settled: fingerprint.toLowerCase(),
    lines: 1,
    snapshot: `S${record}`,
    at,
    by: 'ada',
  })

  it('a content that stays is one state, one that comes back another', () => {
    const spells = recordStatesOf([
      seen(3, 'x', '2026-03'),
      seen(1, 'x', '2026-01'),
      seen(2, 'x', '2026-02'),
      seen(4, 'y', '2026-04'),
      seen(5, 'x', '2026-05'),
    ]).get('config')
    expect(
      spells?.map(({ record, fingerprint, from, to, snapshots }) => [record, fingerprint, from, to, snapshots.length]),
    ).to.deep.equal([
      [1, 'x', '2026-01', '2026-03', 3],
      [4, 'y', '2026-04', '2026-04', 1],
      [5, 'x', '2026-05', '2026-05', 1],
    ])
  })

  it('what a listing says of itself is no other state', () => {
    expect(
      recordStatesOf([seen(1, 'x', '2026-01'), seen(2, 'X', '2026-02')])
        .get('config')
        ?.map(({ fingerprint, snapshots }) => [fingerprint, snapshots]),
    ).to.deep.equal([['x', ['S1', 'S2']]])
  })

  it('both sides keep every line in its order, and equal rows are equal', () => {
    const lines = fc.array(fc.constantFrom('a', 'b', 'c', 'd'), { maxLength: 30 })
    fc.assert(
      fc.property(lines, lines, (left, right) => {
        const rows = (sideBySide(left, right, 1000) ?? []).filter((row) => row !== null)
        if (left.join() === right.join()) return rows.length === 0
        expect(rows.filter(({ a }) => a !== null).map(({ left: text }) => text)).to.deep.equal(left)
        expect(rows.filter(({ b }) => b !== null).map(({ right: text }) => text)).to.deep.equal(right)
        expect(rows.filter(({ a }) => a !== null).map(({ a }) => a)).to.deep.equal(left.map((_, i) => i + 1))
        return rows.every(({ same, left: one, right: other }) => !same || one === other)
      }),
    )
  })

  it('cuts what is far from a change', () => {
    const left = Array.from({ length: 50 }, (_, i) => `line ${i}`)
    const right = left.map((line, i) => (i === 20 ? 'other' : line))
    const rows = sideBySide(left, right, 2) ?? []
    expect(rows.map((row) => row && row.a)).to.deep.equal([null, 19, 20, 21, 22, 23, null])
    expect(rows[3]).to.deep.equal({ a: 21, b: 21, left: 'line 20', right: 'other', same: false })
  })
})

describe('the archive', function () {
  this.timeout(60_000)
  let world: World
  before(async () => {
    world = await makeWorld()
  })
  after(async () => world.end())

  it('shows each state once with its snapshots, and any two beside each other without their secrets', async () => {
    const lead = await world.client('lead')
    const base = `/engagements/${world.engagement}`
    const config = (more: string): string => `hostname a\nsnmp-server community sparrowhawk RO\n${more}`
    const first = await lead.freeze(
      world.engagement,
      { 'a.cfg': config('') },
      { title: 'One', takenAt: '2026-11-02T10:00:00Z' },
    )
    await lead.freeze(world.engagement, { 'a.cfg': config('') }, { title: 'Two', takenAt: '2026-11-03T10:00:00Z' })
    const third = await lead.freeze(
      world.engagement,
      { 'a.cfg': config('ip http server\n') },
      { title: 'Three', takenAt: '2026-11-04T10:00:00Z' },
    )
    await lead.freeze(world.engagement, { 'b.cfg': 'hostname b\n' }, { title: 'Four', takenAt: '2026-11-05T10:00:00Z' })
    const device = first.json.records[0].deviceId
    const [history] = (await lead.get(`${base}/devices/${device}/history`)).json
    expect(
      history.spells.map(({ from, to, snapshots }: { from: string; to: string; snapshots: string[] }) => [
        from.slice(0, 10),
        to.slice(0, 10),
        snapshots,
      ]),
    ).to.deep.equal([
      ['2026-11-02', '2026-11-03', ['One', 'Two']],
      ['2026-11-04', '2026-11-04', ['Three']],
    ])
    const beside = await lead.get(
      `${base}/records/${history.spells[0].record}/compared-with/${history.spells[1].record}`,
    )
    expect(beside.text).to.contain('ip http server').and.not.contain('sparrowhawk')
    expect(beside.json.changed).to.equal(1)
    expect(third.status).to.equal(200)
    const { json: other } = await lead.post('/engagements', { title: 'Elsewhere', client: '' })
    expect((await lead.get(`/engagements/${other.id}/devices/${device}/history`)).status).to.equal(404)
    expect(
      (
        await lead.get(
          `/engagements/${other.id}/records/${history.spells[0].record}/compared-with/${history.spells[1].record}`,
        )
      ).status,
    ).to.equal(404)
  })
})
