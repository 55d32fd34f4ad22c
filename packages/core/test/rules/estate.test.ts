import { expect } from 'chai'
import fc from 'fast-check'
import { auditDevice, dialectById, prepare, readBenchmark, type Verdict } from '../../src/index.ts'
import { readRecord } from '../../src/snapshot/index.ts'
import { estateAnswersOf, joinAnswers, type EstateDevice } from '../../src/audit/index.ts'
import { Estate, EstateView, alteredBy, concerns, restsOn } from '../../src/rules/index.ts'

const dialect = dialectById('indented')
if (!dialect) throw new Error('no dialect')
const rule = (id: string, when: string): string => `
  - id: ${id}
    title: Asked across devices
    topic: T
    statement: s
    severity: low
    profile: all
    dialects: [indented]
    decide:
      - { id: holds, when: ${when}, outcome: pass, note: n }
      - { id: not, outcome: fail, note: n }`
const bench = prepare({
  benchmark: readBenchmark(`
id: across
version: "1"
title: Across
statement: s
profiles: [{ id: all, title: All }]
rules:${rule('one-name', '{ same: system.domainName }')}${rule('own-addresses', '{ unique: "interfaces.map(i, i.ipv4)" }')}${rule('one-mtu', '{ ends: mtu }')}
`),
  profile: 'all',
  values: {},
})
const mask = (): string => 'masked'

interface Port {
  readonly subnet: number
  readonly host: number
  readonly mtu: number
}
const estateDevice = (name: string, domain: string, ports: readonly Port[]): EstateDevice => ({
  name,
  dialect,
  records: [
    {
      id: 'c',
      kind: 'config',
      takenAt: null,
      tree: readRecord(
        `hostname ${name}\nip domain name ${domain}\n${ports.map(({ subnet, host, mtu }, i) => `interface Port${i}\n ip address 10.0.0.${subnet * 4 + host} 255.255.255.252\n mtu ${mtu}\n`).join('')}`,
        'indented',
      ),
    },
  ],
})
const estateOf = (devices: readonly EstateDevice[]): Estate =>
  joinAnswers(devices.map((device) => [device.name, estateAnswersOf(device, [bench], mask)] as const))
/** Whether a change from one estate to another can concern what looked that up. */
const concerned = (seen: EstateView['seen'], then: readonly EstateDevice[], now: readonly EstateDevice[]): boolean => {
  const answers = (devices: readonly EstateDevice[], name: string): Map<string, unknown> =>
    new Map(
      devices.filter((device) => device.name === name).flatMap((device) => [...estateAnswersOf(device, [bench], mask)]),
    )
  const altered = alteredBy(
    [...new Set([...then, ...now].map(({ name }) => name))].map((device) => ({
      device,
      before: answers(then, device),
      after: answers(now, device),
    })),
  )
  return concerns(altered, restsOn(seen))
}
const judged = ({ name, records }: EstateDevice, view: EstateView): Verdict[] =>
  auditDevice(name, dialect, records, [bench], mask, { only: 'across', estate: view })

describe('What a verdict across devices rests on', () => {
  const port = fc.record({ subnet: fc.nat(3), host: fc.integer({ min: 1, max: 2 }), mtu: fc.constantFrom(1400, 1500) })
  const said = fc.record({ domain: fc.constantFrom('x.example', 'y.example'), ports: fc.array(port, { maxLength: 2 }) })

  it('while every look at the answers finds the same, so does the verdict', () => {
    fc.assert(
      fc.property(
        fc.array(said, { minLength: 2, maxLength: 6 }),
        fc.nat(),
        fc.option(said),
        fc.option(said),
        (all, at, instead, added) => {
          const then = all.map(({ domain, ports }, i) => estateDevice(`d${i}`, domain, ports))
          const changed = at % all.length
          const others = then.flatMap((device, i) =>
            i !== changed ? [device] : instead ? [estateDevice(device.name, instead.domain, instead.ports)] : [],
          )
          const now = added ? [...others, estateDevice('new', added.domain, added.ports)] : others
          const [before, after] = [estateOf(then), estateOf(now)]
          for (const [i, device] of then.entries()) {
            if (i === changed) continue
            const view = new EstateView(before)
            const verdicts = judged(device, view)
            expect(before.stillHolds(view.seen)).to.equal(true)
            if (!concerned(view.seen, then, now)) expect(after.stillHolds(view.seen)).to.equal(true)
            if (after.stillHolds(view.seen)) expect(judged(device, new EstateView(after))).to.deep.equal(verdicts)
          }
        },
      ),
      { numRuns: 150 },
    )
  })

  it('a change touches the devices whose links and addresses it concerns, and no other', () => {
    const ports = (subnet: number, host: number, mtu = 1500): Port[] => [{ subnet, host, mtu }]
    const then = [
      estateDevice('a', 'x.example', ports(1, 1)),
      estateDevice('b', 'x.example', ports(1, 2)),
      estateDevice('c', 'x.example', ports(2, 1)),
      estateDevice('d', 'x.example', ports(2, 2)),
    ]
    const before = estateOf(then)
    const seen = new Map(
      then.map((device) => {
        const view = new EstateView(before)
        judged(device, view)
        return [device.name, view.seen] as const
      }),
    )
    const touched = (now: readonly EstateDevice[]): string[] => {
      const after = estateOf(now)
      const other = [...seen].filter(([, looks]) => !after.stillHolds(looks)).map(([name]) => name)
      // Its own answers touch nobody's looks but its own, which are not looked at again: it is judged anew.
      expect(
        [...seen]
          .filter(
            ([name, looks]) =>
              now.some((device) => device === then.find((one) => one.name === name)) && concerned(looks, then, now),
          )
          .map(([name]) => name),
      ).to.deep.equal(other)
      return other
    }
    expect(touched([estateDevice('a', 'x.example', ports(1, 1, 1400)), ...then.slice(1)])).to.deep.equal(['b'])
    expect(touched([...then, estateDevice('e', 'x.example', ports(2, 1))])).to.deep.equal(['c', 'd'])
    expect(touched([...then, estateDevice('e', 'y.example', [])])).to.deep.equal(['a', 'b', 'c', 'd'])
  })
})
