import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect } from 'chai'
import {
  EffectiveConfig,
  dialectById,
  diffScopes,
  modelOf,
  planFor,
  readBenchmark,
  readSnapshot,
  type LocatedTree,
  type SnapshotFile,
} from '@jurybox/core'
import { effectiveValues } from '@jurybox/core/benchmarks'
import { judgedDevice, type Example } from '@jurybox/core/rules'
import fc from 'fast-check'
import { parse } from 'yaml'
import { benchmarkTexts } from '../src/index.ts'
import { mask } from './hardening.ts'

const benchmark = readBenchmark(benchmarkTexts().find(({ text }) => text.includes('id: network-hardening'))?.text ?? '')
const VALUES = { ntp_servers: ['10.40.0.11', '10.40.0.12'], log_hosts: ['10.40.0.21', '10.40.0.22'] }

/** Devices that are generated; more with `GENERATED=500`. */
const RUNS = Number(process.env['GENERATED'] ?? 60)

function filesOf(folder: string, within = ''): SnapshotFile[] {
  return readdirSync(join(folder, within), { withFileTypes: true }).flatMap((entry) => {
    const path = within === '' ? entry.name : `${within}/${entry.name}`
    return entry.isDirectory()
      ? filesOf(folder, path)
      : [{ path, bytes: new Uint8Array(readFileSync(join(folder, path))) }]
  })
}

const scenario = new URL('../../../scenario/', import.meta.url).pathname
const devices = ['2026-08-24', '2026-11-16'].flatMap((folder) =>
  readSnapshot(filesOf(join(scenario, folder))).devices.map((device) => ({ ...device, folder })),
)

/** Configurations beside those of the demo, whose remedies meet. */
const OTHERS: [name: string, dialect: string, text: string][] = [
  [
    'bare router',
    'indented',
    'hostname a\ninterface GigabitEthernet0/0\n description Carrier\n ip address 192.0.2.1 255.255.255.0\ninterface Vlan1\n ip address 10.0.0.1 255.255.255.0\nline con 0\nline vty 0 4\n transport input all\nend\n',
  ],
  [
    'switch',
    'indented',
    'hostname b\nip ssh authentication-retries 2\nlogin block-for 3600 attempts 2 within 120\nspanning-tree portfast default\ninterface GigabitEthernet0/1\n switchport mode access\n spanning-tree portfast\ninterface GigabitEthernet0/2\n switchport mode trunk\nline vty 0 4\n exec-timeout 5 0\nend\n',
  ],
  [
    'AAA',
    'indented',
    'hostname c\naaa new-model\naaa authentication login default group tacacs+ local\ntacacs server A\n address ipv4 10.0.0.9\n key gull\nline con 0\n exec-timeout 0 0\nline aux 0\nline vty 0 4\n transport input ssh telnet\nend\n',
  ],
  [
    'firewall',
    'setlines',
    'set system host-name d\nset system services telnet\nset system services ssh root-login allow\nset system services ssh protocol-version v1\nset system login retry-options tries-before-disconnect 2\nset system syslog host 10.40.0.21 any notice\nset snmp community public\nset interfaces ge-0/0/0 unit 0 family inet address 192.0.2.1/24\n',
  ],
]

/** Outcomes by rule, and the commands of what fails. */
function judged(
  effective: EffectiveConfig,
  kind: 'before' | 'after',
  only?: string,
): { readonly outcomes: Map<string, string>; readonly commands: string[] } {
  const device = judgedDevice({
    name: 'device',
    record: 'config.txt',
    effective,
    model: () => modelOf(effective, { record: 'config.txt', mask }),
  })
  const outcomes = new Map<string, string>()
  const commands: string[] = []
  for (const rule of benchmark.rules) {
    if (rule.estateQuestions.length > 0 || (only !== undefined && rule.source.id !== only)) continue
    const raw = rule.judge(device, effectiveValues(benchmark.source, VALUES))
    outcomes.set(rule.source.id, raw.outcome)
    if (kind === 'before' && raw.outcome === 'fail' && raw.remedy?.kind === 'edits')
      commands.push(...planFor(raw.remedy.edits, effective.scope, effective.dialect).commands)
  }
  return { outcomes, commands }
}

/** What the commands of all remedies of a device turn to a fail that was none. */
function broken(dialectId: string, tree: LocatedTree): string[] {
  const dialect = dialectById(dialectId)
  if (!dialect) return []
  const effective = EffectiveConfig.of(tree, dialect)
  const before = judged(effective, 'before')
  if (before.commands.length === 0) return []
  const after = judged(new EffectiveConfig(tree, dialect.apply([tree], before.commands), dialect), 'after')
  return [...after.outcomes]
    .filter(([rule, outcome]) => (outcome === 'fail' || outcome === 'error') && before.outcomes.get(rule) !== outcome)
    .map(([rule]) => rule)
}

const STRICT: [dialect: string, text: string, kept: RegExp][] = [
  [
    'indented',
    'hostname a\nlogin block-for 60 attempts 3 within 300\n',
    /^login block-for 1800 attempts 3 within 300$/,
  ],
  [
    'indented',
    'hostname a\nlogin block-for 3600 attempts 20 within 120\n',
    /^login block-for 3600 attempts 10 within 120$/,
  ],
  [
    'setlines',
    'set system login retry-options tries-before-disconnect 2\n',
    /^set system login retry-options tries-before-disconnect 2$/,
  ],
  [
    'setlines',
    'set system login retry-options lockout-period 60\n',
    /^set system login retry-options lockout-period 60$/,
  ],
]

describe('a remedy', () => {
  for (const [id, text, kept] of STRICT) {
    it(`keeps what is stricter already: ${text.trim().split('\n').at(-1) ?? ''}`, () => {
      const dialect = dialectById(id)
      if (!dialect) throw new Error(id)
      const { commands } = judged(EffectiveConfig.of(dialect.read(text), dialect), 'before', 'login-lockout')
      expect(
        commands.some((command) => kept.test(command)) ||
          !commands.some((command) => command.startsWith(kept.source.slice(1, 40))),
        commands.join('\n'),
      ).to.equal(true)
      expect(commands).to.not.have.length(0)
    })
  }
})

describe('the remedies of a device together', () => {
  for (const device of devices) {
    it(`${device.folder}, ${device.name}: leave no new fail`, () => {
      const record = device.records.find(({ kind }) => kind === 'config')
      if (record?.tree) expect(broken(device.dialect.id, record.tree)).to.deep.equal([])
    })
  }
  for (const [name, dialect, text] of OTHERS) {
    it(`${name}: leave no new fail`, () => {
      const tree = dialectById(dialect)?.read(text)
      if (!tree) throw new Error(dialect)
      expect(broken(dialect, tree)).to.deep.equal([])
    })
  }
})

/**
 * Rows of the variants, each with every part of it deactivated in turn: the word for what is there and does not hold.
 */
function rows(): { readonly rule: string; readonly dialect: string; readonly text: string }[] {
  const folder = new URL('variants/', import.meta.url)
  return readdirSync(folder).flatMap((file) =>
    (parse(readFileSync(new URL(file, folder), 'utf8')) as [string, string, string, Partial<Example>?][]).flatMap(
      ([dialect, , text, more]) => {
        const own = { rule: file.replace('.yaml', ''), dialect, text }
        if (more !== undefined || dialect !== 'setlines') return more === undefined ? [own] : []
        const paths = text.split('\n').flatMap((line) => (line.startsWith('set ') ? [line.split(' ').slice(1)] : []))
        const heads = new Set(paths.flatMap((words) => words.slice(1).map((_, i) => words.slice(0, i + 2).join(' '))))
        return [own, ...[...heads].map((head) => ({ ...own, text: `${text}\ndeactivate ${head}` }))]
      },
    ),
  )
}

describe('the remedy of a rule', () => {
  /** What activating a part brings back besides may be wrong in its own right: the plan says so. */
  const BROUGHT_BACK = new Set(['idle-timeout', 'ntp-servers'])

  it('mends what it is for in every variant, deactivated parts included, and its rollback undoes it', () => {
    const wrong: string[] = []
    let plans = 0
    for (const { rule: id, dialect: dialectId, text } of rows()) {
      const dialect = dialectById(dialectId)
      const rule = benchmark.rules.find(({ source }) => source.id === id)
      if (!dialect || !rule || rule.estateQuestions.length > 0) continue
      const tree = dialect.read(text)
      const effective = EffectiveConfig.of(tree, dialect)
      const judge = (config: EffectiveConfig) =>
        rule.judge(
          judgedDevice({
            name: 'device',
            record: 'config.txt',
            effective: config,
            model: () => modelOf(config, { record: 'config.txt', mask }),
          }),
          effectiveValues(benchmark.source, VALUES),
        )
      const { outcome, remedy } = judge(effective)
      if (outcome !== 'fail' || remedy?.kind !== 'edits') continue
      plans++
      const { commands, rollback, activated } = planFor(remedy.edits, effective.scope, dialect)
      const after = judge(new EffectiveConfig(tree, dialect.apply([tree], commands), dialect)).outcome
      if (after === 'fail' && !(activated.length > 0 && BROUGHT_BACK.has(id)))
        wrong.push(`${id} still fails: ${text} -> ${commands.join('; ')}`)
      const back = diffScopes(effective.scope, dialect.apply([tree], [...commands, ...rollback]), dialect)
      if (back.length > 0) wrong.push(`${id} is not undone: ${text} -> ${rollback.join('; ')}`)
    }
    expect(wrong).to.deep.equal([])
    expect(plans).to.be.greaterThan(250)
  })
})

/** Configurations drawn from the variants of several rules: what one of them mends, another may ask about. */
function drawnFrom(dialect: string): fc.Arbitrary<string> {
  const texts = rows()
    .filter((row) => row.dialect === dialect && !row.text.includes('deactivate'))
    .map(({ text }) => text)
  return fc.uniqueArray(fc.constantFrom(...texts), { minLength: 2, maxLength: 7 }).map((some) => some.join('\n'))
}

describe('the remedies of generated devices together', () => {
  for (const dialect of ['indented', 'setlines']) {
    it(`${dialect}: leave no new fail`, () => {
      fc.assert(
        fc.property(drawnFrom(dialect), (text) => {
          const tree = dialectById(dialect)?.read(text)
          if (tree) expect(broken(dialect, tree)).to.deep.equal([])
        }),
        { numRuns: RUNS },
      )
    })
  }
})
