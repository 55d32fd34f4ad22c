import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect } from 'chai'
import { rotateKey, resealAll } from '../src/vault/rotation.ts'
import { Vault } from '../src/vault/vault.ts'
import { CONFIG, makeWorld, type World } from './world.ts'

describe('a change of keys', function () {
  this.timeout(60_000)
  let world: World
  let record: string
  before(async () => {
    world = await makeWorld()
    const lead = await world.client('lead')
    const frozen = await lead.freeze(world.engagement, { 'a.cfg': CONFIG })
    record = `/engagements/${world.engagement}/records/${frozen.json.records[0].id}`
    await world.server.services.collecting.credentials.add(world.engagement, world.users.lead, {
      title: 'C',
      user: 'u',
      password: 'sparrowhawk',
    })
  })
  after(async () => world.end())

  const read = async (): Promise<string> => (await (await world.client('lead')).get(record)).text
  /** What was read of devices is sealed as well. */
  const found = async (): Promise<string[]> => {
    const { status, json } = await (
      await world.client('lead')
    ).get(`/engagements/${world.engagement}/search?q=frobnicate`)
    return status === 202
      ? found()
      : json.flatMap(({ hits }: { hits: { title: string }[] }) => hits.map(({ title }) => title))
  }
  const key = (): string => readFileSync(join(world.folder, 'key'), 'utf8')

  it('keeps everything readable, marks of secrets included', async () => {
    const before = await read()
    expect(await found()).to.deep.equal(['frobnicate'])
    const old = key()
    expect(await rotateKey(world.server.services.database, world.server.services.vault, world.folder, {})).to.equal(3)
    expect(key()).to.not.equal(old)
    expect(existsSync(join(world.folder, 'key.next'))).to.equal(false)
    world = await world.restart()
    expect(await read()).to.equal(before)
    expect(await found()).to.deep.equal(['frobnicate'])
    const [credential] = await world.server.services.collecting.credentials.opened(world.engagement)
    expect(credential?.password).to.equal('sparrowhawk')
    // The old key opens nothing any more.
    const vault = new Vault(Buffer.from(old.trim(), 'hex'))
    const [{ body, sha256 }] = await world.server.services.database.query('SELECT body, sha256 FROM contents')
    expect(() => vault.unseal(body, sha256)).to.throw()
  })

  it('is brought to its end where it was cut short before the new key took its name', async () => {
    const before = await read()
    const { database } = world.server.services
    const next = 'a'.repeat(64)
    writeFileSync(join(world.folder, 'key.next'), `${next}\n`)
    const halfway = new Vault(Buffer.from(next, 'hex'), Vault.keyIn(world.folder))
    expect(await resealAll(database, halfway)).to.equal(3)
    world = await world.restart()
    expect(key().trim()).to.equal(next)
    expect(await read()).to.equal(before)
  })

  it('a key that fits nothing is refused in words, and nothing is changed', async () => {
    const right = key()
    await world.server.stop()
    renameSync(join(world.folder, 'key'), join(world.folder, 'key.kept'))
    writeFileSync(join(world.folder, 'key'), `${'b'.repeat(64)}\n`)
    let said = ''
    await makeWorld(world.folder).catch((error: unknown) => (said = String(error)))
    expect(said).to.contain('The key does not decrypt the s').and.contain('Nothing was changed')
    writeFileSync(join(world.folder, 'key'), right)
    world = await makeWorld(world.folder)
    expect(await read()).to.contain('hostname core')
  })

  it('a key from the environment is changed by whoever keeps it there', async () => {
    let said = ''
    const { database, vault } = world.server.services
    await rotateKey(database, vault, world.folder, { JURYBOX_KEY: key().trim() }).catch(
      (error: unknown) => (said = String(error)),
    )
    expect(said).to.contain('JURYBOX_NEW_KEY')
    expect(
      await rotateKey(database, vault, world.folder, { JURYBOX_KEY: key().trim(), JURYBOX_NEW_KEY: 'c'.repeat(64) }),
    ).to.equal(3)
    await resealAll(database, new Vault(Buffer.from(key().trim(), 'hex'), Buffer.from('c'.repeat(64), 'hex')))
  })
})
