import { expect } from 'chai'
import fc from 'fast-check'
import { applyCommands, dialectById, planFor, type Dialect, type Scope } from '../../src/index.ts'
import { statementText } from '../../src/compare/index.ts'
import type { Edit } from '../../src/rules/index.ts'
import { effectiveTree } from '../../src/syntax/index.ts'

const indented = dialectById('indented') as Dialect
const scopeOf = (text: string): Scope => effectiveTree([indented.read(text)], indented)
const shown = (scope: Scope): string => {
  const lines = (inner: Scope, indent: string): string[] =>
    inner.statements.flatMap((s) => [`${indent}${statementText(s)}`, ...(s.scope ? lines(s.scope, `${indent} `) : [])])
  return lines(scope, '').sort().join('\n')
}
const plan = (config: string, ...edits: Edit[]): Pick<ReturnType<typeof planFor>, 'commands' | 'rollback'> => {
  const { commands, rollback, activated } = planFor(edits, scopeOf(config), indented)
  expect(activated, 'nothing of this dialect is deactivated').to.deep.equal([])
  return { commands, rollback }
}

const CASES: readonly {
  name: string
  config: string
  edit: Edit
  commands: readonly string[]
  rollback: readonly string[]
}[] = [
  {
    name: 'a line where there was none',
    config: 'hostname a',
    edit: { block: null, remove: [], add: ['no ip http server'] },
    commands: ['no ip http server'],
    rollback: ['default ip http server'],
  },
  {
    name: 'a line in place of its opposite',
    config: 'ip http server',
    edit: { block: null, remove: [], add: ['no ip http server'] },
    commands: ['no ip http server'],
    rollback: ['ip http server'],
  },
  {
    name: 'a value in place of another',
    config: 'login block-for 10 attempts 3 within 5',
    edit: { block: null, remove: [], add: ['login block-for 1800 attempts 3 within 60'] },
    commands: ['login block-for 1800 attempts 3 within 60'],
    rollback: ['login block-for 10 attempts 3 within 5'],
  },
  {
    name: 'the old out before the new in',
    config: 'ntp server 10.9.9.9 prefer',
    edit: { block: null, remove: ['ntp server 10.9.9.9 prefer'], add: ['ntp server 10.0.0.1'] },
    commands: ['no ntp server 10.9.9.9 prefer', 'ntp server 10.0.0.1'],
    rollback: ['default ntp server 10.0.0.1', 'ntp server 10.9.9.9 prefer'],
  },
  {
    name: 'in a block',
    config: 'line vty 0 4\n transport input telnet',
    edit: { block: 'line vty 0 4', remove: [], add: ['transport input ssh'] },
    commands: ['line vty 0 4', ' transport input ssh', 'exit'],
    rollback: ['line vty 0 4', ' transport input telnet', 'exit'],
  },
  {
    name: 'a banner with its text',
    config: 'banner login ^C\nold\n^C',
    edit: { block: null, remove: [], add: ['banner login #new#'] },
    commands: ['banner login #new#'],
    rollback: ['banner login ^C', 'old', '^C'],
  },
  {
    name: 'a negated line taken out',
    config: 'no logging on',
    edit: { block: null, remove: ['no logging on'], add: [] },
    commands: ['logging on'],
    rollback: ['no logging on'],
  },
]

describe('plans', () => {
  for (const { name, config, edit, commands, rollback } of CASES) {
    it(name, () => expect(plan(config, edit)).to.deep.equal({ commands, rollback }))
  }

  it('the rollback of any plan returns the same effective tree', () => {
    const line = fc.constantFrom(
      'hostname a',
      'ip http server',
      'no ip http server',
      'ip source-route',
      'no ip source-route',
      'ntp server 10.0.0.1',
      'ntp server 10.0.0.2 prefer',
      'logging host 10.0.0.5',
      'service timestamps log uptime',
      'banner login #x#',
      'no logging on',
    )
    const child = fc.constantFrom(
      ' transport input telnet',
      ' transport input ssh',
      ' exec-timeout 5 0',
      ' no exec-timeout',
      ' login local',
    )
    const config = fc
      .tuple(fc.array(line, { maxLength: 6 }), fc.array(child, { maxLength: 3 }))
      .map(([lines, children]) => [...lines, 'line vty 0 4', ...children].join('\n'))
    const adds = fc.uniqueArray(
      fc.constantFrom(
        'no ip http server',
        'ip http server',
        'no ip source-route',
        'ntp server 10.0.0.9',
        'service timestamps log datetime msec',
        'logging on',
        'banner login #new text#',
        'ip ssh version 2',
      ),
      { maxLength: 4 },
    )
    const inBlock = fc.uniqueArray(fc.constantFrom('transport input ssh', 'exec-timeout 10 0', 'access-class 10 in'), {
      maxLength: 3,
    })
    fc.assert(
      fc.property(config, adds, inBlock, fc.nat(), (text, add, addInBlock, pick) => {
        fc.pre(!(add.includes('no ip http server') && add.includes('ip http server')))
        const device = scopeOf(text)
        const own = device.statements.filter((s) => !s.scope).map(statementText)
        const remove = own.length > 0 ? [own[pick % own.length] ?? ''].filter((one) => !one.startsWith('banner')) : []
        const made = planFor(
          [
            { block: null, remove, add },
            { block: 'line vty 0 4', remove: [], add: addInBlock },
          ],
          device,
          indented,
        )
        const tree = indented.read(text)
        expect(
          shown(applyCommands(tree, [...made.commands, ...made.rollback], indented)),
          `${made.commands.join('\n')}\n--\n${made.rollback.join('\n')}`,
        ).to.equal(shown(device))
        for (const wanted of add.filter((one) => !remove.some((old) => old === one)))
          expect(shown(applyCommands(tree, made.commands, indented)).split('\n')).to.include(wanted)
      }),
      { numRuns: 500 },
    )
  })
})

describe('plans for what is deactivated', () => {
  const setlines = dialectById('setlines') as Dialect
  const planOf = (config: string, add: string) =>
    planFor([{ block: null, remove: [], add: [add] }], setlines.evaluate([setlines.read(config)]), setlines)
  const NTP = 'set system ntp server 10.0.0.1\nset system ntp server 10.0.0.2\ndeactivate system ntp'

  it('activate it, and say what comes back with it', () => {
    expect(planOf(NTP, 'system ntp server 10.0.0.1')).to.deep.equal({
      commands: ['activate system ntp', 'set system ntp server 10.0.0.1'],
      rollback: ['deactivate system ntp'],
      activated: [{ path: 'system ntp', statements: ['system ntp server 10.0.0.1', 'system ntp server 10.0.0.2'] }],
    })
    expect(
      planOf(
        'set system services ssh root-login allow\ndeactivate system services ssh',
        'system services ssh root-login deny',
      ).rollback,
    ).to.deep.equal(['set system services ssh root-login allow', 'deactivate system services ssh'])
    expect(planOf(NTP, 'system services ssh').commands, 'what is apart from it').to.deep.equal([
      'set system services ssh',
    ])
  })

  it('their rollback leaves it deactivated as it was', () => {
    const path = fc.constantFrom(
      'system ntp server 10.0.0.1',
      'system ntp server 10.0.0.2 prefer',
      'system login retry-options tries-before-disconnect 9',
      'system services ssh root-login allow',
      'system services telnet',
      'system host-name a',
    )
    const head = fc.constantFrom(
      'system ntp',
      'system ntp server 10.0.0.1',
      'system login',
      'system services ssh',
      'system services',
      'system host-name a',
    )
    const add = fc.uniqueArray(
      fc.constantFrom(
        'system ntp server 10.0.0.1',
        'system ntp server 10.0.0.9',
        'system login retry-options tries-before-disconnect 3',
        'system services ssh root-login deny',
        'system services ssh protocol-version v2',
      ),
      { minLength: 1, maxLength: 3 },
    )
    const said = ({ statements, inactive }: Scope): string =>
      JSON.stringify([
        statements.map(({ text }) => text).sort(),
        inactive.map((part) => [part.path, [...part.statements].sort()]).sort(),
      ])
    fc.assert(
      fc.property(
        fc.uniqueArray(path, { minLength: 1 }),
        fc.uniqueArray(head, { maxLength: 2 }),
        add,
        (paths, heads, adds) => {
          const config = [
            ...paths.map((one) => `set ${one}`),
            ...heads
              .filter((one) => paths.some((other) => `${other} `.startsWith(`${one} `)))
              .map((one) => `deactivate ${one}`),
          ].join('\n')
          const tree = setlines.read(config)
          const held = setlines.evaluate([tree])
          const { commands, rollback } = planFor([{ block: null, remove: [], add: adds }], held, setlines)
          const after = setlines.apply([tree], commands)
          for (const one of adds) if (!after.statements.some(({ text }) => text === one)) return false
          return said(setlines.apply([tree], [...commands, ...rollback])) === said(held)
        },
      ),
    )
  })
})
