import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import fc from 'fast-check'
import { hashPassword, NOBODY, passwordMatches } from '../src/auth/passwords.ts'
import { MAY, ROLES, may } from '@jurybox/api/roles'
import { ENDPOINTS } from '@jurybox/api'
import { Vault } from '../src/vault/vault.ts'

describe('the vault', () => {
  const vault = new Vault(Buffer.alloc(32, 1))

  it('gives back what was sealed, in its own place only', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 500 }), fc.string(), fc.string(), (bytes, place, other) => {
        const sealed = vault.seal(bytes, place)
        expect(vault.unseal(sealed, place).equals(Buffer.from(bytes))).to.equal(true)
        if (place !== other) expect(() => vault.unseal(sealed, other)).to.throw()
      }),
    )
  })

  it('notices any changed byte, and never seals the same twice', () => {
    const sealed = vault.seal(Buffer.from('hostname a'), 'x')
    for (let i = 0; i < sealed.length; i++) {
      const changed = Buffer.from(sealed)
      changed[i] = (changed[i] ?? 0) ^ 1
      expect(() => vault.unseal(changed, 'x'), `byte ${i}`).to.throw()
    }
    expect(vault.seal(Buffer.from('a'), 'x').equals(vault.seal(Buffer.from('a'), 'x'))).to.equal(false)
  })

  it('takes its key from the environment or keeps one in a file that only its owner reads', () => {
    const folder = mkdtempSync(join(tmpdir(), 'jurybox-vault-'))
    try {
      const sealed = Vault.open(folder, {}, true).seal(Buffer.from('a'), 'x')
      expect(Vault.open(folder, {}, false).unseal(sealed, 'x').toString()).to.equal('a')
      expect(statSync(join(folder, 'key')).mode & 0o077).to.equal(0)
      const key = readFileSync(join(folder, 'key'), 'utf8').trim()
      expect(Vault.open('/nowhere', { JURYBOX_KEY: key }, false).unseal(sealed, 'x').toString()).to.equal('a')
      expect(() => Vault.open(folder, { JURYBOX_KEY: 'short' }, true)).to.throw(/64 hexadecimal/)
      const printed = Vault.open('/nowhere', { JURYBOX_KEY_COMMAND: `echo ${key}` }, false)
      expect(printed.unseal(sealed, 'x').toString()).to.equal('a')
      expect(() => Vault.open(folder, { JURYBOX_KEY_COMMAND: 'exit 3' }, true)).to.throw(
        /JURYBOX_KEY_COMMAND ended with exit 3/,
      )
      rmSync(join(folder, 'key'))
      expect(() => Vault.open(folder, {}, false), 'a lost key').to.throw(/key file .* is missing/)
    } finally {
      rmSync(folder, { recursive: true, force: true })
    }
  })
})

describe('passwords', () => {
  it('match their own hash only, however the accents are composed', async () => {
    const hash = await hashPassword('caf\u00e9 at dawn')
    expect(await passwordMatches('cafe\u0301 at dawn', hash)).to.equal(true)
    expect(await passwordMatches('cafe at dawn', hash)).to.equal(false)
    expect(await passwordMatches('', NOBODY)).to.equal(false)
    expect(hash).to.not.equal(await hashPassword('caf\u00e9 at dawn'))
  })
})

describe('the table of who may do what', () => {
  it('a reader only reads, and the lead may do everything', () => {
    for (const permission of Object.keys(MAY) as (keyof typeof MAY)[]) {
      expect(may('lead', permission)).to.equal(true)
      if (permission !== 'read') expect(may('reader', permission)).to.equal(false)
    }
    expect(ROLES.filter((role) => may(role, 'exportSecrets'))).to.deep.equal(['lead', 'engineer'])
  })

  it('every route that changes an engagement asks for more than reading', () => {
    for (const route of [...ENDPOINTS.values()].filter(
      ({ path, method }) => path.startsWith('/engagements/') && method !== 'get',
    ))
      expect(route.access, route.path).to.not.be.oneOf(['read', 'everyone', 'signed-in'])
  })

  it('only these routes are open to everyone', () => {
    expect(
      [...ENDPOINTS.values()].filter(({ access }) => access === 'everyone').map(({ path }) => path),
    ).to.have.members(['/standing', '/first-user', '/sign-in'])
  })
})
