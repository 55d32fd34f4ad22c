import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import fc from 'fast-check'
import { parse, stringify } from 'yaml'
import { auditDevice, dialectById, prepare, readBenchmark, type LocatedTree, type Verdict } from '../../src/index.ts'
import { readRecord } from '../../src/snapshot/index.ts'
import { tryExamples } from '../../src/audit/index.ts'
import {
  changedText,
  citeLines,
  conditionFrom,
  differencesOf,
  idFrom,
  pastedBlock,
  pastedPrefixes,
  ruleFrom,
  ruleOf,
  withRule,
  type CitedLine,
  type CitedWord,
  type DraftRule,
  type Mode,
} from '../../src/authoring/index.ts'
import type { Condition } from '../../src/rules/index.ts'

const mask = (): string => '‹secret:00000000›'
const BARE = `id: own
title: Own
version: 1.0.0
statement: s
profiles: [{ id: base, title: All }] # a remark that stays
rules: []
`

function judged(draft: DraftRule, config: string, dialectId = 'indented'): Verdict {
  const benchmark = readBenchmark(withRule(BARE, draft).text)
  const dialect = dialectById(dialectId)
  if (!dialect) throw new Error(dialectId)
  const [verdict] = auditDevice(
    'd',
    dialect,
    [{ id: 'r', kind: 'config', takenAt: null, tree: readRecord(config, dialectId) }],
    [prepare({ benchmark, profile: 'base', values: {} })],
    mask,
  )
  if (!verdict) throw new Error('nothing was judged')
  return verdict
}

function cited(config: string, lines: number[], dialect = 'indented'): readonly CitedLine[] {
  return citeLines(readRecord(config, dialect), lines, mask).lines
}

/** A line with some of its words asked for otherwise. */
function asking(line: CitedLine | undefined, uses: Record<number, Partial<CitedWord>>): CitedLine {
  if (!line) throw new Error('no line')
  return { ...line, words: line.words.map((word, i) => ({ ...word, ...uses[i] })) }
}

describe('Rules from cited lines', () => {
  const CONFIG =
    'hostname a\nntp server 10.0.0.1\nntp server 10.0.0.2\ninterface Port1\n ip address 10.1.0.1 255.255.255.0\n no ip redirects\nline vty 0 4\n exec-timeout 10 0\n transport input ssh\nsnmp-server community hunter2 RO\n'

  it('finds the block around a line and judges each such block', () => {
    const [line] = cited(CONFIG, [9])
    expect(line?.blocks.map((words) => words.map(({ text }) => text).join(' '))).to.deep.equal(['line vty 0 4'])
    const draft = ruleFrom({ dialect: 'indented', mode: 'has', lines: cited(CONFIG, [8, 9]) }, 'Lines accept SSH')
    expect(draft.rule['each']).to.deep.equal({ block: 'line vty 0 4' })
    expect(judged(draft, CONFIG).outcome).to.equal('pass')
    const { outcome, remedy } = judged(draft, CONFIG.replace(' transport input ssh\n', ''))
    expect(outcome).to.equal('fail')
    expect(remedy && 'commands' in remedy ? remedy.commands : []).to.deep.equal([
      'line vty 0 4',
      ' exec-timeout 10 0',
      ' transport input ssh',
      'exit',
    ])
  })

  it('asks of every block of a kind where a word of its opener is left open', () => {
    const lines = cited(CONFIG, [6]).map((line) => ({
      ...line,
      blocks: line.blocks.map((words) =>
        words.map((word, i): CitedWord => (i === 1 ? { ...word, use: 'named', name: 'port' } : word)),
      ),
    }))
    const draft = ruleFrom({ dialect: 'indented', mode: 'has', lines }, 'No redirects')
    expect(draft.rule['each']).to.deep.equal({ block: 'interface <port>' })
    const { outcome, subjects } = judged(draft, `${CONFIG}interface Port2\n ip address 10.2.0.1 255.255.255.0\n`)
    expect([outcome, subjects.map(({ outcome: one }) => one)]).to.deep.equal(['fail', ['pass', 'fail']])
  })

  it('turns a word into a value of the benchmark, which the condition and the remedy use', () => {
    const [line] = cited(CONFIG, [8])
    const draft = ruleFrom(
      { dialect: 'indented', mode: 'has', lines: [asking(line, { 1: { use: 'value', name: 'idle_minutes' } })] },
      'Idle sessions end',
    )
    expect(draft.values).to.deep.equal({ idle_minutes: { type: 'int', title: 'idle_minutes', default: 10 } })
    expect(judged(draft, CONFIG).outcome).to.equal('pass')
    const other = judged(draft, CONFIG.replace('exec-timeout 10', 'exec-timeout 60'))
    expect(other.outcome).to.equal('fail')
    expect(other.remedy && 'commands' in other.remedy ? other.remedy.commands : []).to.include(' exec-timeout 10 0')
  })

  it('must not, exactly and in this order', () => {
    const servers = cited(CONFIG, [2, 3])
    const of = (mode: Mode): DraftRule => ruleFrom({ dialect: 'indented', mode, lines: servers }, mode)
    expect(judged(of('hasNot'), CONFIG).outcome).to.equal('fail')
    expect(judged(of('hasNot'), 'hostname b\n').outcome).to.equal('pass')
    expect(of('exactly').rule['decide']).to.have.deep.nested.property('[0].when', {
      exactly: { of: 'ntp server ...', lines: ['ntp server 10.0.0.1', 'ntp server 10.0.0.2'] },
    })
    expect(judged(of('exactly'), CONFIG).outcome).to.equal('pass')
    const more = judged(of('exactly'), CONFIG.replace('10.0.0.2', '10.0.0.3'))
    expect([more.outcome, more.missing, more.extra]).to.deep.equal([
      'fail',
      ['ntp server 10.0.0.2'],
      ['ntp server 10.0.0.3'],
    ])
    expect(judged(of('order'), CONFIG).outcome).to.equal('pass')
    expect(judged(of('order'), 'hostname a\nntp server 10.0.0.2\nntp server 10.0.0.1\n').outcome).to.equal('fail')
  })

  it('never cites a secret', () => {
    const lines = cited(CONFIG, [10])
    expect(JSON.stringify(lines)).to.not.contain('hunter2')
    const draft = ruleFrom({ dialect: 'indented', mode: 'hasNot', lines }, 'No communities')
    expect(JSON.stringify(draft)).to.contain('snmp-server community * RO')
    expect(judged(draft, CONFIG).outcome).to.equal('fail')
  })

  it('cites paths in the braced dialect and its set lines', () => {
    const braced = 'system {\n  services {\n    ssh { root-login deny; }\n  }\n}\n'
    expect(conditionFrom({ dialect: 'braced', mode: 'has', lines: cited(braced, [3], 'braced') }, true)).to.equal(
      'system services ssh root-login deny',
    )
    expect(
      conditionFrom(
        {
          dialect: 'setlines',
          mode: 'has',
          lines: cited('set system services ssh root-login deny\n', [1], 'setlines'),
        },
        true,
      ),
    ).to.equal('system services ssh root-login deny')
    expect(citeLines(readRecord(braced, 'braced'), [1], mask).left[0]?.reason).to.contain('opens a level')
  })

  it('says why lines cannot be asked for', () => {
    const apart = cited(CONFIG, [2, 9])
    expect(() => conditionFrom({ dialect: 'indented', mode: 'order', lines: apart }, true)).to.throw('different blocks')
    expect(() => conditionFrom({ dialect: 'indented', mode: 'has', lines: [] }, true)).to.throw('at least one line')
    expect(() => conditionFrom({ dialect: 'indented', mode: 'order', lines: apart.slice(0, 1) }, true)).to.throw(
      'two lines',
    )
    expect(() => conditionFrom({ dialect: 'indented', mode: 'exactly', lines: cited(CONFIG, [1, 2]) }, true)).to.throw(
      'same word',
    )
    expect(citeLines(readRecord(CONFIG, 'indented'), [99], mask).left).to.deep.equal([
      { line: 99, reason: 'there is no such line' },
    ])
  })

  describe('any lines of the demo estate', () => {
    const scenario = fileURLToPath(new URL('../../../../scenario', import.meta.url))
    const records: { tree: LocatedTree; text: string; dialect: string; lines: number[] }[] = readdirSync(scenario, {
      recursive: true,
      withFileTypes: true,
    })
      .filter((entry) => entry.isFile() && /^config\.(?:txt|set)$/.test(entry.name))
      .flatMap((entry) => {
        const text = readFileSync(join(entry.parentPath, entry.name), 'utf8')
        const dialect = /^hostname /m.test(text)
          ? 'indented'
          : /^set /m.test(text)
            ? 'setlines'
            : /^system \{/m.test(text)
              ? 'braced'
              : null
        if (dialect === null) return []
        const tree = readRecord(text, dialect)
        const { lines } = citeLines(
          tree,
          Array.from({ length: tree.lines.length }, (_, i) => i + 1),
          mask,
        )
        return [
          {
            tree,
            text,
            dialect,
            lines: lines.filter(({ words }) => words.every(({ use }) => use === 'same')).map(({ line }) => line),
          },
        ]
      })

    it('hold on the device they were cited from, and what must not be there fails', () => {
      expect(records.length).to.be.greaterThan(5)
      fc.assert(
        fc.property(
          fc.nat(),
          fc.array(fc.nat(), { minLength: 1, maxLength: 3 }),
          fc.constantFrom<Mode>('has', 'hasNot'),
          (which, picks, mode) => {
            const record = records[which % records.length]
            if (!record) return
            const lines = cited(
              record.text,
              picks.map((pick) => record.lines[pick % record.lines.length] ?? 1),
              record.dialect,
            )
            const draft = ruleFrom({ dialect: record.dialect, mode, lines }, 'Cited')
            expect(judged(draft, record.text, record.dialect).outcome, stringify(draft.rule)).to.equal(
              mode === 'has' ? 'pass' : 'fail',
            )
            const benchmark = readBenchmark(withRule(BARE, draft).text)
            const [rule] = benchmark.rules
            if (rule)
              expect(
                tryExamples(benchmark, rule).flatMap(({ wrong }) => wrong),
                stringify(draft.rule),
              ).to.deep.equal([])
          },
        ),
        { numRuns: 150 },
      )
    })
  })
})

describe('Rules from what was pasted', () => {
  const LIST = 'ip access-list extended IN\n 10 permit tcp any host 10.0.0.1 eq 443\n 20 deny ip any any log\n'

  it('a block holds line by line; a list keeps its order and has nothing between', () => {
    const block = pastedBlock('line vty 0 4\n transport input ssh\n exec-timeout 5 0\n', 'indented')
    expect(block).to.deep.equal({ holds: 'line vty 0 4\n transport input ssh\n exec-timeout 5 0' })
    const list = pastedBlock(LIST, 'indented')
    expect(list).to.have.property('order')
    const outcome = (config: string): string => judged(ruleOf(list, 'indented', 'The list'), config).outcome
    expect(outcome(`hostname a\n${LIST}`)).to.equal('pass')
    expect(outcome(`hostname a\n${LIST.replace(' 20', ' 15 permit ip any any\n 20')}`)).to.equal('fail')
    expect(() => pastedBlock('!\n', 'indented')).to.throw('statement')
  })

  const like = (config: string, line: number): CitedLine => cited(config, [line])[0] as CitedLine
  for (const [name, config, line, of, lines] of [
    [
      'wildcard bits',
      'ip access-list standard NETS\n 10 permit 10.9.0.0 0.0.255.255\n',
      2,
      '* permit * *',
      ['* permit 10.0.0.0 0.255.255.255', '* permit 192.0.2.0 0.0.0.255'],
    ],
    [
      'masks',
      'ip route 10.9.0.0 255.255.0.0 Null0\n',
      1,
      'ip route * * Null0',
      ['ip route 10.0.0.0 255.0.0.0 Null0', 'ip route 192.0.2.0 255.255.255.0 Null0'],
    ],
    [
      'lengths',
      'ip prefix-list P seq 5 permit 10.9.0.0/16\n',
      1,
      'ip prefix-list P seq * permit *',
      ['ip prefix-list P seq * permit 10.0.0.0/8', 'ip prefix-list P seq * permit 192.0.2.0/24'],
    ],
  ] as const) {
    it(`prefixes become an exact set in the form of the line: ${name}`, () => {
      const condition = pastedPrefixes('10.0.0.0/8, 192.0.2.0/24', like(config, line)) as Extract<
        Condition,
        { exactly: object }
      >
      expect(condition.exactly).to.deep.equal({ of, lines })
    })
  }

  it('takes neither the place of an entry nor its hits for a part of it', () => {
    const list = 'ip prefix-list P seq 5 permit 10.0.0.0/8\nip prefix-list P seq 10 permit 192.0.2.0/24\n'
    const condition = pastedPrefixes(
      'seq 10 permit 10.0.0.0/8 (12 matches)\nseq 20 permit 192.0.2.0/24 (0 matches)',
      like(list, 1),
    )
    expect(judged(ruleOf(condition, 'indented', 'Nets'), list)?.outcome).to.equal('pass')
    expect(judged(ruleOf(condition, 'indented', 'Nets'), list.replace('192.0.2', '198.51.100'))?.outcome).to.equal(
      'fail',
    )
  })

  it('says which entry is no prefix, and when the line is no example', () => {
    expect(() => pastedPrefixes('10.0.0.0/8 ten', like('ip route 10.9.0.0 255.255.0.0 Null0\n', 1))).to.throw(
      '"ten" is not a prefix such as 10.0.0.0/8',
    )
    expect(() => pastedPrefixes('10.0.0.0/8', like('hostname a\n', 1))).to.throw('has no address')
    expect(() => pastedPrefixes(' ', like('ip route 10.9.0.0 255.255.0.0 Null0\n', 1))).to.throw('one prefix')
  })

  it('the set says what is missing and extra on a device', () => {
    const lists =
      'ip access-list standard NETS\n 10 permit 10.0.0.0 0.255.255.255\n 20 permit 172.16.0.0 0.15.255.255\n'
    const verdict = judged(
      ruleOf(pastedPrefixes('10.0.0.0/8 192.0.2.0/24', like(lists, 2)), 'indented', 'Nets'),
      `hostname a\n${lists}`,
    )
    expect([verdict.outcome, verdict.missing, verdict.extra]).to.deep.equal([
      'fail',
      ['* permit 192.0.2.0 0.0.0.255'],
      ['20 permit 172.16.0.0 0.15.255.255'],
    ])
  })
})

describe('Benchmarks as text', () => {
  it('an edit changes one part and keeps remarks', () => {
    const draft = ruleFrom({ dialect: 'indented', mode: 'has', lines: cited('ntp server 10.0.0.1\n', [1]) }, 'Clock')
    const first = withRule(BARE, draft)
    const second = withRule(first.text, draft)
    expect([first.id, second.id]).to.deep.equal(['clock', 'clock-2'])
    const changed = changedText(second.text, ['rules', 1, 'severity'], 'high')
    expect(changed).to.contain('# a remark that stays')
    const read = parse(changed) as { rules: { severity: string }[] }
    expect(read.rules.map(({ severity }) => severity)).to.deep.equal(['medium', 'high'])
    expect(parse(changedText(changed, ['rules', 1, 'remedy'], undefined))).to.not.have.nested.property(
      'rules[1].remedy',
    )
    expect(() => changedText('a: [', ['a'], 1)).to.throw('not valid YAML')
  })

  it('ids are as rules have them, whatever the title', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary' }), (title) => /^[a-z][a-z0-9-]*$/.test(idFrom(title))))
  })

  it('differences name parts and their fields, whatever the order', () => {
    const rule = (id: string, severity: string): string =>
      `  - id: ${id}\n    title: T\n    topic: T\n    severity: ${severity}\n    profile: base\n    statement: s\n    decide: [{ id: x, outcome: pass, note: n }]\n`
    const of = (rules: string, version = '1.0.0'): ReturnType<typeof readBenchmark>['source'] =>
      readBenchmark(BARE.replace('rules: []', `rules:\n${rules}`).replace('1.0.0', version)).source
    const then = of(rule('a', 'low') + rule('b', 'low'))
    expect(differencesOf(then, of(rule('b', 'low') + rule('a', 'low')))).to.deep.equal({ about: [], parts: [] })
    const { about, parts } = differencesOf(then, of(rule('a', 'high') + rule('c', 'low'), '1.1.0'))
    expect(about).to.deep.equal([{ field: 'version', from: '1.0.0', to: '1.1.0' }])
    expect(parts.map(({ id, what, fields }) => [id, what, fields])).to.deep.equal([
      ['a', 'changed', [{ field: 'severity', from: 'low', to: 'high' }]],
      ['b', 'removed', []],
      ['c', 'added', []],
    ])
  })
})
