import { expect } from 'chai'
import { zipSync } from 'fflate'
import { readSnapshot, type SnapshotFile } from '../../src/index.ts'
import { LIMITS } from '../../src/snapshot/index.ts'

const file = (path: string, text: string | Uint8Array): SnapshotFile => ({
  path,
  bytes: typeof text === 'string' ? new TextEncoder().encode(text) : text,
})
const names = (files: readonly SnapshotFile[]): string[] => readSnapshot(files).devices.map((device) => device.name)
const reasons = (files: readonly SnapshotFile[]): string =>
  readSnapshot(files)
    .refused.map(({ path, reason }) => `${path}: ${reason}`)
    .join('\n')

describe('snapshots', () => {
  it('takes bare files, one device each, named by host name or else by file', () => {
    expect(
      names([file('x/one.cfg', 'hostname core\nip http server\n'), file('two.conf', 'ip http server\n')]),
    ).to.deep.equal(['core', 'two'])
  })

  it('takes a snapshot folder with its facts, under whatever folder it lies', () => {
    const snapshot = readSnapshot([
      file('a/snapshot.yaml', 'title: T\ntakenAt: 2026-11-02T10:00:00Z\n'),
      file('a/devices/core/device.yaml', 'site: ops\nversion: 7.4\nlabels: {cards: true}\n'),
      file('a/devices/core/config.txt', 'hostname other\n'),
      file('a/devices/core/config.saved.txt', 'hostname other\n'),
      file('a/devices/core/state/routes.txt', 'anything\n'),
    ])
    expect(snapshot.title).to.equal('T')
    const device = snapshot.devices[0]
    expect(device?.name).to.equal('core')
    expect(device?.facts).to.include({ site: 'ops', version: '7.4' })
    expect(device?.records.map((record) => record.kind)).to.deep.equal(['config.saved', 'config', 'state/routes'])
    expect(
      device?.records.every((record) => record.takenAt === '2026-11-02T10:00:00Z' && record.timeSource === 'stated'),
    ).to.equal(true)
    expect(snapshot.refused).to.have.length(0)
  })

  it('believes the time that a listing states over the one of the snapshot', () => {
    const stated = 'Time source is NTP, 10:12:01.123 UTC Mon Nov 2 2026\nhostname a\n'
    expect(readSnapshot([file('a.cfg', stated)]).devices[0]?.records[0]).to.include({
      takenAt: '2026-11-02T10:12:01Z',
      timeSource: 'listing',
    })
    expect(
      readSnapshot([file('a.cfg', '! Last configuration change at 10:12:01 UTC Mon Nov 2 2026\nhostname a\n')])
        .devices[0]?.records[0],
    ).to.include({ takenAt: null, timeSource: 'unknown' })
    expect(
      readSnapshot([file('a.cfg', '!Time: Mon Nov  2 10:12:01 2026\nhostname a\n')]).devices[0]?.records[0]?.takenAt,
    ).to.equal('2026-11-02T10:12:01Z')
  })

  it('asks about two files with one host name instead of merging them', () => {
    const snapshot = readSnapshot([
      file('a.cfg', 'hostname core\n'),
      file('b.cfg', 'hostname core\nip http server\n'),
      file('c.cfg', 'hostname edge\n'),
    ])
    expect(snapshot.devices.map((device) => device.name)).to.deep.equal(['core', 'edge'])
    expect(snapshot.sameName).to.deep.equal([{ name: 'core', paths: ['a.cfg', 'b.cfg'] }])
    expect(snapshot.refused[0]?.reason).to.contain('a.cfg')
  })

  const refusals: [string, SnapshotFile[], RegExp][] = [
    ['another kind of file', [file('notes.docx', 'hello')], /notes\.docx: .*by its name/],
    ['a picture that says it is text', [file('a.txt', new Uint8Array([0xff, 0xd8, 0xff, 1]))], /a\.txt: .*JPEG/],
    ['facts that are not YAML', [file('devices/a/device.yaml', 'a: [')], /not valid YAML/],
    ['facts with an unknown name', [file('devices/a/device.yaml', 'colour: red')], /colour/],
    ['a state without a configuration', [file('devices/a/state/routes.txt', 'x')], /no configuration/],
    ['a file that no device folder has', [file('devices/a/config.old', 'hostname a')], /not a file of a device folder/],
    ['a path that leads out', [file('../a.cfg', 'hostname a')], /leaves the snapshot/],
    ['an absolute path', [file('/etc/a.cfg', 'hostname a')], /absolute/],
    ['the same path twice', [file('a.cfg', 'hostname a'), file('./a.cfg', 'hostname b')], /taken already/],
  ]
  for (const [name, files, reason] of refusals)
    it(`refuses with a reason: ${name}`, () => expect(reasons(files)).to.match(reason))

  describe('zips', () => {
    it('unpacks a snapshot', () => {
      const zip = zipSync({
        'devices/a/config.txt': new TextEncoder().encode('hostname a\n'),
        'b.cfg': new TextEncoder().encode('hostname b\n'),
      })
      expect(names([file('s.zip', zip)])).to.deep.equal(['a', 'b'])
    })

    it('stops a bomb while it unpacks', () => {
      const bomb = zipSync({ 'a.cfg': new Uint8Array(LIMITS.fileBytes + 1) }, { level: 9 })
      expect(bomb.length).to.be.below(200_000)
      expect(reasons([file('bomb.zip', bomb)])).to.match(/unpacks to more than/)
    })

    it('keeps paths inside, and names what cannot be read', () => {
      expect(reasons([file('s.zip', zipSync({ '../../a.cfg': new TextEncoder().encode('hostname a') }))])).to.match(
        /leaves the snapshot/,
      )
      expect(reasons([file('s.zip', new TextEncoder().encode('no zip at all'))])).to.match(/s\.zip: /)
    })
  })
})
