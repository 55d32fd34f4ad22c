import { expect } from 'chai'
import { dialectById, type Dialect } from '../../src/index.ts'
import { DeviceAnalysis } from '../../src/analysis/index.ts'
import {
  checkDevices,
  checkNetwork,
  checkSchema,
  checked,
  readChecks,
  selectedChecks,
  type Check,
  type CheckResult,
  type TableRow,
  type TableRows,
} from '../../src/checks/index.ts'
import { readRecord } from '../../src/snapshot/index.ts'

const check = (body: Partial<Check>): Check =>
  checkSchema.parse({ id: 'c', title: 'C', topic: 'T', of: 'state.bgp', is: 'same', ...body })
const rows = (...own: readonly (readonly [key: string, row: Readonly<Record<string, unknown>>])[]): TableRows => ({
  rows: own.map(([key, row], i): TableRow => ({ key, row, lines: [{ record: 'r', from: i + 1, to: i + 1 }] })),
  doubt: null,
})
const said = ({ outcome, failing }: CheckResult): string =>
  [outcome, ...failing.map(({ key, code, before, after }) => `${key} ${code} ${before ?? '-'} → ${after ?? '-'}`)].join(
    '; ',
  )

const CASES: readonly { name: string; check: Partial<Check>; a: TableRows; b: TableRows; is: string }[] = [
  { name: 'the same rows', check: { is: 'same' }, a: rows(['x', {}]), b: rows(['x', {}]), is: 'pass' },
  {
    name: 'a row that vanished',
    check: { is: 'same' },
    a: rows(['x', {}]),
    b: rows(),
    is: 'fail; x vanished present → -',
  },
  {
    name: 'a row that appeared',
    check: { is: 'same' },
    a: rows(),
    b: rows(['x', {}]),
    is: 'fail; x appeared - → present',
  },
  { name: 'a row more is kept', check: { is: 'kept' }, a: rows(['x', {}]), b: rows(['x', {}], ['y', {}]), is: 'pass' },
  {
    name: 'another value',
    check: { is: 'kept', value: 'row.state' },
    a: rows(['10.40.0.1', { state: 'established' }]),
    b: rows(['10.40.0.1', { state: 'idle' }]),
    is: 'fail; 10.40.0.1 changed established → idle',
  },
  {
    name: 'what was not up before need not be kept',
    check: { is: 'kept', where: 'row.up', value: 'row.up' },
    a: rows(['x', { up: false }], ['y', { up: true }]),
    b: rows(['x', { up: true }], ['y', { up: false }]),
    is: 'fail; y changed yes → no',
  },
  { name: 'nothing new', check: { is: 'no-new' }, a: rows(['x', {}]), b: rows(), is: 'pass' },
  { name: 'something new', check: { is: 'no-new' }, a: rows(), b: rows(['x', {}]), is: 'fail; x appeared - → present' },
  { name: 'appeared as it should', check: { is: 'appeared' }, a: rows(), b: rows(['x', {}]), is: 'pass' },
  {
    name: 'did not appear',
    check: { is: 'appeared' },
    a: rows(['x', {}]),
    b: rows(['x', {}]),
    is: 'fail;  not-so - → -',
  },
  { name: 'vanished as it should', check: { is: 'vanished' }, a: rows(['x', {}]), b: rows(), is: 'pass' },
  {
    name: 'within five per cent',
    check: { is: 'within', percent: 5, value: 'row.prefixes' },
    a: rows(['x', { prefixes: 100 }], ['y', { prefixes: 100 }]),
    b: rows(['x', { prefixes: 105 }], ['y', { prefixes: 94 }]),
    is: 'fail; y outside 100 → 94',
  },
  {
    name: 'within a number',
    check: { is: 'within', by: 2, value: 'row.stratum' },
    a: rows(['', { stratum: 2 }]),
    b: rows(['', { stratum: 4 }]),
    is: 'pass',
  },
  {
    name: 'counted by what they are',
    check: { is: 'within', percent: 5, count: 'row.protocol' },
    a: rows(['1', { protocol: 'ospf' }], ['2', { protocol: 'ospf' }], ['3', { protocol: 'static' }]),
    b: rows(['1', { protocol: 'ospf' }], ['9', { protocol: 'static' }]),
    is: 'fail; ospf outside 2 → 1',
  },
  {
    name: 'a protocol that is gone altogether',
    check: { is: 'within', percent: 5, count: 'row.protocol' },
    a: rows(['1', { protocol: 'ospf' }]),
    b: rows(),
    is: 'fail; ospf outside 1 → 0',
  },
  {
    name: 'may only grow',
    check: { is: 'may-grow', value: 'row.n' },
    a: rows(['x', { n: 3 }], ['y', { n: 3 }]),
    b: rows(['x', { n: 5 }], ['y', { n: 2 }]),
    is: 'fail; y shrunk 3 → 2',
  },
  {
    name: 'does not grow',
    check: { is: 'not-grown', value: 'row.errors' },
    a: rows(['x', { errors: 3 }], ['y', { errors: 3 }]),
    b: rows(['x', { errors: 3 }], ['y', { errors: 9 }]),
    is: 'fail; y grown 3 → 9',
  },
  {
    name: 'a counter that began anew and counted since has grown',
    check: { is: 'not-grown', value: 'row.errors' },
    a: rows(['x', { errors: 30 }]),
    b: rows(['x', { errors: 2 }]),
    is: 'fail; x grown 30 → 2',
  },
  {
    name: 'a counter that began anew and shows nothing may have grown before',
    check: { is: 'not-grown', value: 'row.errors' },
    a: rows(['x', { errors: 30 }]),
    b: rows(['x', { errors: 0 }]),
    is: 'unknown; x reset 30 → 0',
  },
  {
    name: 'must hold of every row',
    check: { is: 'holds', value: 'row.ok' },
    a: rows(),
    b: rows(['fan 1', { ok: true }], ['fan 2', { ok: false }]),
    is: 'fail; fan 2 not-so - → no',
  },
  {
    name: 'is not stated',
    check: { is: 'holds', value: 'row.synchronised' },
    a: rows(),
    b: rows(['', { synchronised: null }]),
    is: 'unknown;  no-value - → -',
  },
  {
    name: 'equal lists in another order',
    check: { is: 'same', value: 'row.hops' },
    a: rows(['x', { hops: ['10.0.0.1', '10.0.0.2'] }]),
    b: rows(['x', { hops: ['10.0.0.2', '10.0.0.1'] }]),
    is: 'pass',
  },
]

describe('checks on change', () => {
  for (const { name, check: body, a, b, is } of CASES)
    it(name, () => expect(said(checked(check(body), a, b))).to.equal(is))

  it('each failing row cites its lines on both sides', () => {
    const { failing } = checked(check({ value: 'row.n' }), rows(['x', { n: 1 }]), rows(['x', { n: 2 }]))
    expect(failing[0]?.a).to.deep.equal([{ record: 'r', from: 1, to: 1 }])
    expect(failing[0]?.b).to.deep.equal([{ record: 'r', from: 1, to: 1 }])
  })

  const none: TableRows = { rows: [], doubt: { code: 'not-captured', lines: [] } }
  const partial: TableRows = { rows: [], doubt: { code: 'unparsed', lines: [{ record: 'r', from: 4, to: 4 }] } }
  it('what was captured on neither side is not checked; on one side it is unknown', () => {
    expect(checked(check({}), none, none).outcome).to.equal('notchecked')
    expect(checked(check({}), rows(['x', {}]), none)).to.deep.include({
      outcome: 'unknown',
      doubt: { ...none.doubt, side: 'b' },
    })
  })
  it('a pass with lines that were not understood is unknown, a fail stays one', () => {
    expect(checked(check({ is: 'no-new' }), rows(), partial)).to.deep.include({ outcome: 'unknown' })
    const failing = { ...rows(['x', {}]), doubt: partial.doubt }
    expect(checked(check({ is: 'no-new' }), rows(), failing).outcome).to.equal('fail')
    // What is looked for may be among them.
    expect(checked(check({ is: 'appeared' }), rows(), partial).outcome).to.equal('unknown')
  })
  it('an expression that cannot be evaluated is an error that says so', () => {
    const { outcome, error } = checked(
      check({ value: 'row.state.deep' }),
      rows(['x', { state: 'a' }]),
      rows(['x', { state: 'a' }]),
    )
    expect([outcome, error]).to.deep.equal(['error', error])
    expect(error).to.have.length.greaterThan(5)
  })

  for (const [name, body, wrong] of [
    ['a table that there is not', { of: 'state.herons' }, /there is no table "state.herons"/],
    ['a tolerance that is missing', { is: 'within', value: 'row.n' }, /asks for "by" or "percent"/],
    ['a tolerance that means nothing', { is: 'same', by: 2 }, /go with "within"/],
    ['a value that is missing', { is: 'may-grow' }, /asks for "value" or "count"/],
    ['an expression that is none', { value: 'row..n' }, /Expression/],
  ] as const)
    it(`refuses ${name}`, () => {
      const read = (): unknown =>
        readChecks({
          path: 'checks.yaml',
          text: JSON.stringify({ checks: [{ id: 'c', title: 'C', topic: 'T', of: 'state.bgp', is: 'same', ...body }] }),
        })
      expect(read).to.throw(wrong)
    })

  it('a set that names a check that there is not', () => {
    const set = { id: 's', title: 'S', checks: ['heron'] }
    expect(() => selectedChecks(set, [])).to.throw(/"heron"/)
  })

  it('rows of devices: model and state, nested entries by all of their keys', () => {
    const device = (config: string): DeviceAnalysis =>
      new DeviceAnalysis(
        dialectById('indented') as Dialect,
        [{ id: 'config', kind: 'config', tree: readRecord(config, 'indented'), takenAt: null }],
        () => '',
      )
    const [result] = checkDevices(
      [check({ of: 'model.bgp.neighbours', value: 'row.remoteAs' })],
      device('router bgp 65001\n neighbor 192.0.2.1 remote-as 65002'),
      device('router bgp 65001\n neighbor 192.0.2.1 remote-as 65003'),
    )
    expect(result && said(result)).to.equal('fail; 65001 192.0.2.1 changed 65002 → 65003')
  })

  it('tables of the network as a whole are brought along, and not checked where they are not', () => {
    const of = { of: 'flows', value: 'row.fates' }
    const brought = { flows: { a: rows(['a to b', { fates: 'arrives' }]), b: rows(['a to b', { fates: 'stopped' }]) } }
    expect(checkNetwork([check(of)], brought).map(said)).to.deep.equal(['fail; a to b changed arrives → stopped'])
    expect(checkNetwork([check(of)], {}).map(said)).to.deep.equal(['notchecked'])
  })
})
