import { expect } from 'chai'
import { generate } from 'otplib'
import { MOST_FAILED_LOGINS } from '../src/auth/login-attempts.ts'
import { oneTimePassword, passwordFault } from '../src/auth/passwords.ts'
import { Users } from '../src/auth/entity.ts'
import { ENDPOINTS } from '@jurybox/api'
import { CONFIG, Client, PASSWORD, makeWorld, type World } from './world.ts'

describe('accounts', function () {
  this.timeout(120_000)
  let world: World
  let admin: Client
  before(async () => {
    world = await makeWorld()
    admin = await world.client('founder')
  })
  after(async () => world.end())

  const accountOf = async (name: string): Promise<{ id: number; [key: string]: unknown }> =>
    (await admin.get('/accounts')).json.find((one: { name: string }) => one.name === name)
  /** Puts the last proof of identity of everyone far back. */
  const grownOld = (): Promise<unknown> => world.server.services.database.query('UPDATE sessions SET proved_at = NULL')

  for (const route of [...ENDPOINTS.values()].filter(({ access }) => access === 'administrator')) {
    it(`${route.method.toUpperCase()} ${route.path} is for administrators alone`, async () => {
      const path = route.path.replace(/:\w+/g, '999999')
      const body = route.method === 'get' || route.method === 'delete' ? undefined : {}
      expect((await (await world.client()).call(route.method.toUpperCase(), path, body)).status).to.equal(401)
      for (const name of ['lead', 'reader']) {
        expect((await (await world.client(name)).call(route.method.toUpperCase(), path, body)).status, name).to.equal(
          403,
        )
      }
      expect((await admin.call(route.method.toUpperCase(), path, body)).status).to.not.equal(403)
    })
  }

  it('are created with a one-time password that opens nothing but its own change', async () => {
    const { json } = await admin.post('/accounts', { name: 'newcomer', fullName: 'A Newcomer' })
    const client = await world.client()
    expect(await client.signIn('newcomer', json.password)).to.equal(200)
    expect((await client.get('/sessions')).json.code).to.equal('password-change-needed')
    expect((await client.put('/password', { current: json.password, next: 'shorter' })).status).to.equal(400)
    expect((await client.put('/password', { current: json.password, next: 'the boats are late' })).status).to.equal(204)
    expect((await client.get('/sessions')).status).to.equal(200)
    expect((await accountOf('newcomer'))['mustChange']).to.equal(false)
  })

  it('open engagements only where they may', async () => {
    const reader = await world.client('reader')
    const opening = { title: 'Own', client: '' }
    expect((await reader.post('/engagements', opening)).status).to.equal(403)
    const { id } = await accountOf('reader')
    expect((await admin.put(`/accounts/${id}`, { isAdmin: false, mayOpen: true, disabled: false })).status).to.equal(
      204,
    )
    expect((await reader.post('/engagements', opening)).status).to.equal(200)
  })

  it('become members of an engagement by name, and stop hearing of it when they are removed', async () => {
    const lead = await world.client('lead')
    const base = `/engagements/${world.engagement}`
    expect((await lead.post(`${base}/members`, { name: 'nobody-here', role: 'reader' })).status).to.equal(404)
    await admin.post('/accounts', { name: 'guest', fullName: 'A Guest' })
    expect((await lead.post(`${base}/members`, { name: 'guest', role: 'reader' })).status).to.equal(200)
    expect((await lead.post(`${base}/members`, { name: 'guest', role: 'reader' })).status).to.equal(409)
    const { services } = world.server
    const { token } = await services.sessions.open(
      await services.database.getRepository(Users).findOneByOrFail({ name: 'guest' }),
      { address: '', agent: '' },
    )
    await services.database.getRepository(Users).update({ name: 'guest' }, { mustChange: false })
    const stream = await fetch(`${world.server.address}/api${base}/events`, {
      headers: { cookie: `jurybox_session=${token}` },
    })
    expect(stream.status).to.equal(200)
    const { id } = await accountOf('guest')
    expect((await lead.call('DELETE', `${base}/members/${id}`)).status).to.equal(204)
    // The stream comes to its end by itself.
    for await (const part of stream.body ?? []) expect(Buffer.from(part).toString()).to.match(/^:/)
    expect(services.jobs.listeners(world.engagement)).to.equal(0)
  })

  it('that are disabled lose their sessions at once, and the last administrator stays', async () => {
    const engineer = await world.client('engineer')
    const { id } = await accountOf('engineer')
    await admin.put(`/accounts/${id}`, { isAdmin: false, mayOpen: false, disabled: true })
    expect((await engineer.get('/session')).status).to.equal(401)
    expect(await engineer.signIn('engineer')).to.equal(401)
    await admin.put(`/accounts/${id}`, { isAdmin: false, mayOpen: false, disabled: false })
    const own = await accountOf('founder')
    for (const change of [
      { isAdmin: false, mayOpen: true, disabled: false },
      { isAdmin: true, mayOpen: true, disabled: true },
    ]) {
      expect((await admin.put(`/accounts/${own.id}`, change)).status).to.equal(409)
    }
    expect((await admin.call('DELETE', `/accounts/${id}`)).status, 'who was here is not deleted').to.equal(409)
  })

  it('change their password, and every other session of theirs ends, streams too', async () => {
    const [here, there] = [await world.client('auditor'), await world.client('auditor')]
    expect((await here.get('/sessions')).json.filter(({ isThis }: { isThis: boolean }) => isThis)).to.have.length(1)
    const stream = await fetch(`${world.server.address}/api/engagements/${world.engagement}/events`, {
      headers: { cookie: there.cookie },
    })
    expect((await here.put('/password', { current: PASSWORD, next: 'gannets over the breakwater' })).status).to.equal(
      204,
    )
    expect((await there.get('/session')).status).to.equal(401)
    expect((await here.get('/session')).status).to.equal(200)
    for await (const part of stream.body ?? []) expect(Buffer.from(part).toString()).to.match(/^:/)
    await here.put('/password', { current: 'gannets over the breakwater', next: PASSWORD })
  })

  it('show once more who they are before a dangerous act', async () => {
    const engineer = await world.client('engineer')
    const { json } = await engineer.freeze(world.engagement, { 'a.cfg': CONFIG })
    const path = `/engagements/${world.engagement}/snapshots/${json.id}/folder.zip`
    expect((await engineer.get(path)).status).to.equal(200)
    await grownOld()
    expect((await engineer.get(path)).json.code).to.equal('confirm-identity')
    expect((await engineer.post('/session/confirm', { password: 'not this one' })).status).to.equal(403)
    expect((await engineer.post('/session/confirm', { password: PASSWORD })).status).to.equal(204)
    expect((await engineer.get(path)).status).to.equal(200)
    await admin.post('/session/confirm', { password: PASSWORD })
  })

  it('have a second factor by time, whose codes and recovery codes count once', async () => {
    const lead = await world.client('lead')
    const { json: begun } = await lead.post('/second-factor/begin')
    expect(begun.uri).to.match(/^otpauth:\/\/totp\//)
    expect((await lead.post('/second-factor', { code: '000000' })).status).to.equal(403)
    const at = (seconds: number): Promise<string> =>
      generate({ secret: begun.secret, epoch: Math.floor(Date.now() / 1000) + seconds })
    const { json: on } = await lead.post('/second-factor', { code: await at(-30) })
    expect(on.codes).to.have.length(10)
    const client = await world.client()
    const tried = async (code?: string): Promise<[number, string | undefined]> => {
      const { status, json } = await client.post('/sign-in', {
        name: 'lead',
        password: PASSWORD,
        ...(code === undefined ? {} : { code }),
      })
      return [status, json.code]
    }
    expect(await tried()).to.deep.equal([401, 'second-factor-needed'])
    const code = await at(0)
    expect(await tried(code)).to.deep.equal([200, undefined])
    expect(await tried(code), 'the same once more').to.deep.equal([401, 'second-factor-needed'])
    expect(await tried(on.codes[0])).to.deep.equal([200, undefined])
    expect(await tried(on.codes[0]), 'the same once more').to.deep.equal([401, 'second-factor-needed'])
    // Without the password nobody learns that there is one.
    expect((await client.post('/sign-in', { name: 'lead', password: 'wrong' })).json.code).to.equal(undefined)
    const row = JSON.stringify(
      await world.server.services.database.query("SELECT HEX(totp) AS totp, recovery FROM users WHERE name = 'lead'"),
    )
    expect(row).to.not.contain(Buffer.from(begun.secret).toString('hex').toUpperCase()).and.not.contain(on.codes[1])
    expect((await admin.post(`/accounts/${(await accountOf('lead')).id}/reset`)).json.password).to.match(
      /^(?:\w{4}-){4}\w{4}$/,
    )
    expect((await accountOf('lead'))['hasSecondFactor']).to.equal(false)
  })

  it('are guessed at a limited number of times, and their owners are not locked out by it', async () => {
    const guesses = world.server.services.guesses
    await guesses.right('owner', '192.0.2.1')
    for (let i = 0; i < MOST_FAILED_LOGINS; i++) await guesses.wrong('owner', `198.51.100.${i}`)
    let said = ''
    await guesses.require('owner', '203.0.113.9').catch((error: unknown) => (said = String(error)))
    expect(said).to.match(/Too many wrong attempts for this account/)
    await guesses.require('owner', '192.0.2.1')
    await guesses.require('another', '203.0.113.9')
  })

  it('refused sign-ins are seen by the administrator', async () => {
    await new Client(world.server.address).signIn('reader', 'wrong')
    const { json } = await admin.get('/activity')
    expect(json.entries[0]).to.deep.include({ action: 'sign-in refused', user: 'The reader' })
    expect(json.entries[0].detail).to.deep.include({ name: 'reader', address: '127.0.0.1' })
  })

  // NIST SP 800-63B-4, 3.1.1.2: length, a list of what is guessed first, no rules of composition.
  for (const [password, fault] of [
    ['tern and plover sing', null],
    ['x'.repeat(40), /easy to guess/],
    ['passwordpassword', /easy to guess/],
    ['123456789012345', /easy to guess/],
    ['founder founder f', /easy to guess/],
    ['short one', /at least 15/],
  ] as const) {
    it(`the password “${password}” is ${fault ? 'refused' : 'taken'}`, () => {
      const said = passwordFault(password, ['founder'])
      if (fault) expect(said).to.match(fault)
      else expect(said).to.equal(null)
    })
  }

  it('one-time passwords differ, and may be used', () => {
    const some = Array.from({ length: 50 }, oneTimePassword)
    expect(new Set(some).size).to.equal(50)
    for (const one of some) expect(passwordFault(one, [])).to.equal(null)
  })
})
