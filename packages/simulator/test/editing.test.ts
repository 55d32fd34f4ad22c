import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { benchmarkTexts } from '@jurybox/content'
import { applyCommands, auditDevice, dialectById, prepare, readBenchmark, type Scope } from '@jurybox/core'
import { readRecord } from '@jurybox/core/snapshot'
import { statementText } from '@jurybox/core/compare'
import { devicesIn, editingOf } from '@jurybox/simulator'

const folder = fileURLToPath(new URL('../../../scenario/2026-11-16', import.meta.url))

/** All statements that hold, each with the blocks around it. */
function held(scope: Scope, around = ''): string[] {
  return scope.statements.flatMap((statement) => [
    `${around}${statementText(statement)}`,
    ...(statement.scope ? held(statement.scope, `${around}${statement.text} / `) : []),
  ])
}

describe('lines that are typed on a simulated device', () => {
  const typed = (text: string, dialect: string, ...lines: string[]): { text: string; refused: string[] } => {
    const editing = editingOf(text, dialect)
    const refused = lines.flatMap((line) => {
      if (line === 'exit') return editing.leave() ? [] : ['exit']
      const entered = editing.enter(line)
      return entered.ok ? [] : [entered.why]
    })
    return { text: editing.text, refused }
  }
  const INDENTED =
    'hostname a\n!\nip domain name x.example\nno ip http server\n!\ninterface Port1\n ip address 10.0.0.1 255.255.255.0\n shutdown\n!\nip access-list extended IN\n 10 permit ip any any\n 30 deny ip any any\n!\nline vty 0 4\n transport input telnet\n!\nend\n'

  it('replace, take out, and go to their place in the indented form', () => {
    expect(
      typed(
        INDENTED,
        'indented',
        'ip domain name y.example',
        'ip http server',
        'interface Port1',
        'no shutdown',
        'mtu 9000',
        'exit',
        'no ip access-list extended IN',
      ),
    ).to.deep.equal({
      refused: [],
      text: 'hostname a\n!\nip domain name y.example\nip http server\n!\ninterface Port1\n ip address 10.0.0.1 255.255.255.0\n no shutdown\n mtu 9000\n!\n!\nline vty 0 4\n transport input telnet\n!\nend\n',
    })
    expect(
      typed(
        INDENTED,
        'indented',
        'ip access-list extended IN',
        '20 permit tcp any any',
        'line vty 0 4',
        'transport input ssh',
      ).text,
    )
      .to.contain(' 10 permit ip any any\n 20 permit tcp any any\n 30 deny')
      .and.contain('line vty 0 4\n transport input ssh\n')
    expect(
      typed(INDENTED, 'indented', 'interface Port9', 'description new', 'banner motd ^', 'Keep out', '^').text,
    ).to.match(
      /interface Port1\n.*\n.*\ninterface Port9\n description new\n[^]*\nbanner motd \^\nKeep out\n\^\n!\nend\n$/,
    )
  })

  it('are refused where they are none, and change nothing', () => {
    const { text, refused } = typed(INDENTED, 'indented', 'frobnicate all', 'interface Port1', 'no such thing')
    expect(refused).to.deep.equal([
      '“frobnicate all” is no command of the device',
      '“no such thing” is no command of “interface Port1”, nor of the device',
    ])
    expect(text).to.equal(INDENTED)
    expect(
      typed('set system host-name a\n', 'setlines', 'show version', 'delete system services', 'set').refused,
    ).to.deep.equal([
      '“show version” begins with neither “set” nor “delete”',
      '“system services” is not set',
      '“set” says nothing of what',
    ])
  })

  it('put paths in and out in braces and as set lines', () => {
    const braced = 'system {\n    host-name a;\n    services {\n        telnet;\n        ssh;\n    }\n}\n'
    expect(
      typed(
        braced,
        'braced',
        'set system host-name b',
        'delete system services telnet',
        'set system services ssh root-login deny',
        'set snmp location "the quay"',
      ),
    ).to.deep.equal({
      refused: [],
      text: 'system {\n    host-name b;\n    services {\n        ssh {\n            root-login deny;\n        }\n    }\n}\nsnmp location "the quay";\n',
    })
    expect(typed(braced, 'braced', 'delete system services').text).to.equal('system {\n    host-name a;\n}\n')
    expect(
      typed(
        'set system host-name a\nset system services telnet\nset snmp location q\n',
        'setlines',
        'set system host-name b',
        'set system services ssh',
        'delete snmp',
      ).text,
    ).to.equal('set system host-name b\nset system services telnet\nset system services ssh\n')
  })

  it('leave what the heart says that they leave: every remedy for the demo network', function () {
    this.timeout(120_000)
    const text = benchmarkTexts().find(({ file }) => file.startsWith('network-hardening'))?.text ?? ''
    const benchmark = readBenchmark(text)
    const bench = prepare({ benchmark, profile: benchmark.source.profiles.at(-1)?.id ?? null, values: {} })
    let tried = 0
    for (const { name, dialect: id, records } of devicesIn(folder)) {
      const dialect = dialectById(id)
      const config = records.get('config')
      // Devices without a configuration mode here are not typed at.
      if (!dialect || dialect.session.configuring === null || config === undefined) continue
      const verdicts = auditDevice(
        name,
        dialect,
        [{ id: 'c', kind: 'config', takenAt: null, tree: readRecord(config, id) }],
        [bench],
        (secret) => secret,
      )
      for (const { rule, remedy } of verdicts) {
        if (!remedy || !('commands' in remedy) || remedy.commands.length === 0) continue
        const { text: after, refused } = typed(config, id, ...remedy.commands.flatMap((command) => command.split('\n')))
        expect(refused, `${name} ${rule}`).to.deep.equal([])
        expect(
          held(dialect.evaluate([dialect.read(after)])).sort(),
          `${name} ${rule}\n${remedy.commands.join('\n')}`,
        ).to.deep.equal(held(applyCommands(dialect.read(config), remedy.commands, dialect)).sort())
        tried += 1
      }
    }
    expect(tried).to.be.greaterThan(50)
  })
})
