import { join, relative } from 'node:path'
import { expect } from 'chai'
import fc from 'fast-check'
import { unzipSync } from 'fflate'
import { readSnapshot } from '../../src/index.ts'
import { packSnapshot, safeFileName } from '../../src/snapshot/index.ts'

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text)

describe('names of files', () => {
  const hostile = [
    '../../../../tmp/evil',
    '/etc/passwd',
    'C:\\evil',
    '..',
    '.',
    '',
    'con',
    'NUL.txt',
    'a/b',
    'a\\b',
    'a\0b',
    '-rf',
    '.ssh',
    'name.',
    'x'.repeat(300),
    'Fähre',
    '‮evil',
    'a b',
    '~root',
    '$(id)',
    '`id`',
    'a;b',
    'a\nb',
  ]
  for (const name of hostile) {
    it(`${JSON.stringify(name.slice(0, 30))} becomes one that is safe`, () => {
      const safe = safeFileName(name)
      expect(safe).to.match(/^[A-Za-z\d][\w.-]{0,79}$/)
      expect(relative('/out', join('/out', safe))).to.equal(safe)
    })
  }

  it('safe ones stay as they are, and different ones stay different', () => {
    for (const name of ['qs-dist1', 'core.example', 'R1', 'a_b-c.d']) expect(safeFileName(name)).to.equal(name)
    fc.assert(
      fc.property(
        fc.string({ maxLength: 40 }),
        fc.string({ maxLength: 40 }),
        (a, b) => a === b || safeFileName(a) !== safeFileName(b),
      ),
    )
  })

  it('a host name that is a path leads nowhere: packed and taken in again, the device has its name', () => {
    const name = '../../../../tmp/evil'
    const { devices } = readSnapshot([{ path: 'a.cfg', bytes: bytes(`hostname ${name}\nip http server\n`) }])
    expect(devices.map((device) => device.name)).to.deep.equal([name])
    const zip = packSnapshot({
      title: 'S',
      takenAt: '2026-11-02T10:00:00Z',
      note: '',
      devices: devices.map(({ dialect }) => ({ name, dialect: dialect.id, facts: { labels: {} } })),
      records: devices.flatMap(({ records, dialect }) =>
        records.map(({ kind, text }) => ({ device: name, dialect: dialect.id, kind, text })),
      ),
    })
    const files = unzipSync(zip)
    for (const path of Object.keys(files))
      expect(path).to.match(/^(?:snapshot\.yaml|devices\/tmp-evil-[\da-f]{10}\/[\w.]+)$/)
    const again = readSnapshot([{ path: 's.zip', bytes: zip }])
    expect(again.refused).to.deep.equal([])
    expect(again.devices.map((device) => [device.name, device.records.map((record) => record.device)])).to.deep.equal([
      [name, [name]],
    ])
  })

  it('two folders of one name are not merged: the second is refused', () => {
    const file = (folder: string): { path: string; bytes: Uint8Array }[] => [
      { path: `devices/${folder}/device.yaml`, bytes: bytes('name: core\n') },
      { path: `devices/${folder}/config.txt`, bytes: bytes('hostname core\nip http server\n') },
    ]
    const { devices, refused } = readSnapshot([...file('a'), ...file('b')])
    expect(devices.map(({ name }) => name)).to.deep.equal(['core'])
    expect(refused.map(({ path, reason }) => [path, reason])).to.deep.equal([
      ['devices/b/config.txt', 'the name "core" in its device.yaml is that of another device'],
    ])
  })
})

describe('a file with the listings of two devices', () => {
  const pairs = [
    ['indented', 'hostname a\nip http server\nend\nhostname b\nno ip http server\nend\n', 4],
    ['setlines', 'set system host-name a\nset system services telnet\nset system host-name b\n', 3],
    [
      'braced',
      'system {\n    host-name a;\n    services {\n        telnet;\n    }\n}\nsystem {\n    host-name b;\n}\n',
      8,
    ],
  ] as const
  for (const [dialect, text, line] of pairs) {
    it(`is refused with the line where the second begins: ${dialect}`, () => {
      const { devices, refused } = readSnapshot([{ path: 'both.cfg', bytes: bytes(text) }])
      expect(devices).to.deep.equal([])
      expect(refused[0]?.reason).to.equal(
        `contains the configurations of two devices (line ${line} states the host name "b"): put each into a file of its own`,
      )
    })
  }

  it('of one device twice is one', () => {
    expect(
      readSnapshot([
        { path: 'a.cfg', bytes: bytes('hostname a\nip http server\nend\nhostname a\nip http server\nend\n') },
      ]).devices,
    ).to.have.length(1)
  })
})
