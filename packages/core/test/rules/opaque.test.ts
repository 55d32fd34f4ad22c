import { expect } from 'chai'
import fc from 'fast-check'
import { maskWithKey } from '../../src/index.ts'
import { deviceOf, ruleOf } from './judging.ts'

const mask = maskWithKey(new Uint8Array(32).fill(7))

/** What a condition says of a configuration, without the marks of secrets, which differ where the secrets do. */
function answer(condition: unknown, config: string, dialect = 'indented'): string {
  const rule = ruleOf({
    decide: [
      { id: 'x', when: condition, outcome: 'fail', note: 'n' },
      { id: 'y', outcome: 'pass', note: 'n' },
    ],
  })
  const { outcome, note, missing, extra } = rule.judge(deviceOf(config, dialect, mask), {})
  return JSON.stringify({ outcome, note, missing, extra }).replace(/‹secret:[\da-f]+›/g, '‹secret›')
}

/** Places of a secret, by dialect, and words around which a pattern may be put. */
const PLACES: readonly [dialect: string, line: (secret: string) => string, pattern: (word: string) => string][] = [
  ['indented', (s) => `snmp-server community ${s} RO`, (w) => `snmp-server community ${w} RO`],
  ['indented', (s) => `enable password ${s}`, (w) => `enable password ${w}`],
  ['indented', (s) => `tacacs-server key 7 ${s}`, (w) => `tacacs-server key 7 ${w}`],
  ['indented', (s) => `ntp authentication-key 1 md5 ${s}`, (w) => `ntp authentication-key 1 md5 ${w}`],
  [
    'setlines',
    (s) => `set snmp community ${s} authorization read-only`,
    (w) => `snmp community ${w} authorization read-only`,
  ],
  ['setlines', (s) => `set system radius-server 10.0.0.1 secret "${s}"`, (w) => `system radius-server * secret ${w}`],
  [
    'braced',
    (s) => `snmp {\n    community ${s} {\n        authorization read-only;\n    }\n}`,
    (w) => `snmp community ${w} ...`,
  ],
]

/** Ways in which a condition could try a guess at a secret. */
function probes(pattern: (word: string) => string, guess: string): unknown[] {
  const bound = pattern('<it>')
  return [
    pattern(guess),
    pattern(`{${guess}|other}`),
    pattern('<it:int>'),
    pattern('<it:address>'),
    ...[
      'it == "GUESS"',
      'it.startsWith("G")',
      'it.endsWith("S")',
      'it.contains("UE")',
      'it.size() > 5',
      'it < "m"',
      'found(it, "^G")',
      'it in ["GUESS", "other"]',
      'words(it).size() > 1',
    ].map((where) => ({
      line: bound,
      where: where
        .replaceAll('GUESS', guess)
        .replace('"G"', `"${guess.slice(0, 1)}"`)
        .replace('"S"', `"${guess.slice(-1)}"`)
        .replace('"UE"', `"${guess.slice(1, 3)}"`)
        .replace('^G', `^${guess.slice(0, 1)}`),
    })),
    { matching: `${guess}` },
    { matching: ` ${guess.slice(0, 2)}\\w` },
    { matching: '^.{0,40}$' },
    { count: { of: bound, where: `it == "${guess}"`, atLeast: 1 } },
    { only: [pattern(guess)] },
    { exactly: { of: pattern('*'), lines: pattern(guess) } },
  ]
}

describe('secrets are opaque to rules', () => {
  // The same shape, so that only what a secret says differs.
  const secret = fc.stringMatching(/^[g-z][a-z]{7}$/)
  for (const [dialect, line, pattern] of PLACES) {
    it(`${dialect}: ${line('SECRET').replace(/\s+/g, ' ')}`, () => {
      fc.assert(
        fc.property(secret, secret, (a, b) => {
          for (const probe of probes(pattern, a)) {
            expect(answer(probe, line(a), dialect), JSON.stringify(probe)).to.equal(answer(probe, line(b), dialect))
          }
        }),
        { numRuns: 12 },
      )
    })
  }

  it('but equal ones are equal, and different ones different', () => {
    const twice = {
      all: ['snmp-server community <one> RO', { line: 'ntp authentication-key 1 md5 <two>', where: 'two == one' }],
    }
    expect(answer(twice, 'snmp-server community sanderling RO\nntp authentication-key 1 md5 sanderling\n')).to.contain(
      'fail',
    )
    expect(answer(twice, 'snmp-server community sanderling RO\nntp authentication-key 1 md5 turnstone\n')).to.contain(
      'pass',
    )
  })

  it('and the digits of a mark are nobody’s text: nothing that looks into texts finds them', () => {
    const line = 'tacacs-server key 7 sanderling'
    const digits = /[\da-f]+(?=›)/.exec(mask('sanderling'))?.[0] ?? ''
    const bound = 'tacacs-server key 7 <it>'
    for (const part of [digits, digits.slice(2, 4), digits.slice(4, 7)]) {
      for (const where of [
        `it.contains("${part}")`,
        `found(it, "${part}")`,
        `it.indexOf("${part}") > 8`,
        `it.lastIndexOf("${part}", 9) > 8`,
        `it.split("${part}").size() > 1`,
        `[it].exists(one, one.contains("${part}"))`,
      ])
        expect(answer({ line: bound, where }, line), where).to.contain('pass')
      expect(answer({ matching: `${part}[^ ]*›` }, line), part).to.contain('pass')
    }
  })

  it('and the values that everybody tries first may be named', () => {
    expect(answer('snmp-server community {public|private} ...', 'snmp-server community public RO\n')).to.contain('fail')
  })

  it('a part of a listing that is asked for counts whatever secret it states', () => {
    const holds = { holds: 'snmp-server community sanderling RO\n' }
    expect(answer(holds, 'snmp-server community turnstone RO\n')).to.contain('fail')
    expect(answer(holds, 'snmp-server community turnstone RW\n')).to.contain('pass')
  })

  it('commands that are proposed have them back', () => {
    const rule = ruleOf({
      remedy: { edits: [{ remove: ['snmp-server community <it> RO'], add: ['snmp-server community ${it} RO 10'] }] },
      decide: [
        { id: 'x', when: 'snmp-server community <it> RO', outcome: 'fail', note: 'n' },
        { id: 'y', outcome: 'pass', note: 'n' },
      ],
    })
    const device = deviceOf('snmp-server community sanderling RO\n', 'indented', mask)
    const { remedy } = rule.judge(device, {})
    expect(remedy).to.deep.include({
      kind: 'edits',
      edits: [
        {
          block: null,
          remove: ['snmp-server community sanderling RO'],
          add: ['snmp-server community sanderling RO 10'],
        },
      ],
    })
  })
})
