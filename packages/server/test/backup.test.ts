import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync, existsSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import type { BackupManifest } from '../src/operation/backup.ts'
import { backUp, restore } from '../src/operation/keeping.ts'
import { CONFIG, makeWorld, type World } from './world.ts'

describe('backup and restore', function () {
  this.timeout(120_000)
  let world: World
  let place: string
  let file: string
  let manifest: BackupManifest
  let key: string
  before(async () => {
    place = mkdtempSync(join(tmpdir(), 'jurybox-backup-'))
    file = join(place, 'one.backup')
    world = await makeWorld()
    key = readFileSync(join(world.folder, 'key'), 'utf8').trim()
    const lead = await world.client('lead')
    const { json } = await lead.freeze(world.engagement, { 'a.cfg': CONFIG, 'b.cfg': CONFIG.replace('core', 'edge') })
    await lead.audit(world.engagement, json.id)
    await lead.post(`/engagements/${world.engagement}/credentials`, { title: 'C', user: 'u', password: 'sparrowhawk' })
  })
  after(async () => {
    await world.end()
    rmSync(place, { recursive: true, force: true })
  })

  const failureOf = (work: Promise<unknown>): Promise<string> =>
    work.then(
      () => 'no failure',
      (error: unknown) => (error instanceof Error ? error.message : String(error)),
    )
  const answersOf = async ({ client, engagement }: World): Promise<unknown[]> => {
    const lead = await client('lead')
    const paths = [
      '',
      '/snapshots',
      '/devices',
      '/audits',
      '/audits/1/verdicts',
      '/records/1/text',
      '/credentials',
      '/members',
    ]
    return Promise.all(paths.map(async (path) => (await lead.get(`/engagements/${engagement}${path}`)).text))
  }

  it('is written while the server works, sealed: nothing in it is in clear', async () => {
    manifest = await backUp(world.folder, file, {})
    const rows = (name: string): number | undefined => manifest.tables.find((table) => table.name === name)?.rows
    expect([rows('contents'), rows('devices'), rows('credentials')]).to.deep.equal([2, 2, 1])
    expect(manifest.tables.map(({ name }) => name)).to.not.include('sessions')
    const bytes = readFileSync(file)
    for (const word of ['sparrowhawk', 'hostname', 'network-hardening', 'founder', 'INSERT'])
      expect(bytes.includes(word), word).to.equal(false)
    expect(statSync(file).mode & 0o077).to.equal(0)
    expect(await failureOf(backUp(world.folder, file, {}))).to.match(/already exists/)
  })

  it('restored gives the same answers, hash by hash', async () => {
    const folder = join(place, 'restored')
    const restored = await restore(folder, file, { JURYBOX_KEY: key })
    expect(restored.manifest).to.deep.equal(manifest)
    expect(restored.contents).to.equal(2)
    const other = await makeWorld(folder)
    try {
      expect(await answersOf(other)).to.deep.equal(await answersOf(world))
      const [credential] = await other.server.services.collecting.credentials.opened(other.engagement)
      expect(credential?.password).to.equal('sparrowhawk')
      expect(await other.server.services.activity.firstBreak()).to.equal(null)
    } finally {
      await other.end()
    }
  })

  for (const [what, change, words] of [
    ['cut short', (bytes: Buffer) => bytes.subarray(0, bytes.length - 9), /truncated/],
    ['without its manifest', (bytes: Buffer) => withoutLast(bytes), /truncated \(no manifest\)/],
    [
      'with a changed byte',
      (bytes: Buffer) => Buffer.from(bytes.map((byte, i) => (i === bytes.length >> 1 ? byte ^ 1 : byte))),
      /damaged, or encrypted with another key/,
    ],
    ['that is another file', () => Buffer.from('hostname core\n'.repeat(50)), /not a backup of Jury Box/],
    ['that is empty', () => Buffer.alloc(0), /empty/],
  ] as const) {
    it(`refuses one ${what}, and leaves nothing behind`, async () => {
      const changed = join(place, 'changed.backup')
      writeFileSync(changed, change(readFileSync(file)))
      const folder = join(place, 'new')
      mkdirSync(folder, { recursive: true })
      expect(await failureOf(restore(folder, changed, { JURYBOX_KEY: key }))).to.match(words)
      expect(existsSync(join(folder, 'key'))).to.equal(false)
      expect(existsSync(join(folder, 'mariadb'))).to.equal(false)
    })
  }

  it('opens with no other key, and restores into an empty folder only', async () => {
    expect(await failureOf(restore(join(place, 'x'), file, { JURYBOX_KEY: 'a'.repeat(64) }))).to.match(
      /encrypted with another key/,
    )
    expect(await failureOf(restore(join(place, 'x'), file, {}))).to.match(/JURYBOX_KEY/)
    expect(await failureOf(restore(world.folder, file, { JURYBOX_KEY: key }))).to.match(/is not empty/)
  })
})

function withoutLast(bytes: Buffer): Buffer {
  let at = 0
  let last = 0
  while (at < bytes.length) {
    last = at
    at += 4 + bytes.readUInt32BE(at)
  }
  return bytes.subarray(0, last)
}
