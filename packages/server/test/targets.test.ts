import { createServer, type Server } from 'node:http'
import { expect } from 'chai'
import { posted } from '../src/alerts/post.ts'
import { AllowedTargets } from '../src/alerts/targets.ts'

const saidOf = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'no failure',
    (error: unknown) => (error instanceof Error ? error.message : String(error)),
  )

describe('where alerts may be sent', () => {
  // IANA special-purpose address registries (RFC 6890), and ways to write an address otherwise.
  const refused = [
    '127.0.0.1',
    '10.1.2.3',
    '172.16.9.9',
    '192.168.1.1',
    '169.254.169.254',
    '100.64.0.1',
    '0.0.0.0',
    '224.0.0.1',
    '255.255.255.255',
    '::1',
    '::',
    'fe80::1',
    'fd00::1',
    '::ffff:127.0.0.1',
    '::ffff:a01:203',
    'ff02::1',
    '64:ff9b::7f00:1',
    '2002:7f00:1::',
  ]
  for (const address of refused) {
    it(`not to ${address}, by default`, async () => {
      const targets = new AllowedTargets([], async () => [address])
      expect(await saidOf(targets.target(address.includes(':') ? `[${address}]` : address))).to.match(
        /is not a public address/,
      )
      expect(await saidOf(targets.target('inside.example'))).to.equal(
        'inside.example is not a public address. An administrator allows it in JURYBOX_ALERT_TARGETS.',
      )
    })
  }

  it('to public addresses, and to what the installation allows', async () => {
    expect(await new AllowedTargets([]).target('203.0.114.9')).to.deep.equal({
      host: '203.0.114.9',
      address: '203.0.114.9',
      family: 4,
    })
    const targets = new AllowedTargets(['10.0.0.0/8', 'fd00::/8', 'desk.example', '127.0.0.1'], async (host) => [
      host === 'desk.example' ? '192.168.7.7' : '10.9.9.9',
    ])
    expect((await targets.target('mail.example')).address).to.equal('10.9.9.9')
    expect((await targets.target('DESK.example')).address).to.equal('192.168.7.7')
    expect((await targets.target('[fd00::5]')).family).to.equal(6)
    expect(await saidOf(targets.target('192.168.7.7'))).to.match(/not a public/)
  })

  it('not where one of several addresses is not allowed', async () => {
    const targets = new AllowedTargets([], async () => ['203.0.114.9', '127.0.0.1'])
    expect(await saidOf(targets.target('both.example'))).to.match(/not a public/)
  })

  it('entries that are none are refused by name', () => {
    expect(() => new AllowedTargets(['10.0.0.0/99'])).to.throw(/JURYBOX_ALERT_TARGETS: “10.0.0.0\/99”/)
  })
})

describe('posting', () => {
  let server: Server
  let port: number
  let read = 0
  before((done) => {
    server = createServer((request, response) => {
      if (request.url === '/large') {
        const part = Buffer.alloc(64 * 1024, 'x')
        const more = (): void => {
          while (read < 700 * 1024 * 1024 && response.write(part)) read += part.length
        }
        response.on('drain', more)
        more()
      } else if (request.url === '/secret') response.writeHead(500).end('the password is sparrowhawk')
      else if (request.url === '/elsewhere') response.writeHead(302, { location: 'http://169.254.169.254/' }).end()
      else response.end('{"number":"T-1"}')
    }).listen(0, '127.0.0.1', () => {
      port = (server.address() as { port: number }).port
      done()
    })
  })
  after(() => {
    server.closeAllConnections()
    server.close()
  })
  const to = (path: string): ReturnType<typeof posted> =>
    posted(
      new URL(`http://rebinding.example:${port}${path}`),
      { host: 'rebinding.example', address: '127.0.0.1', family: 4 },
      '{}',
      {},
    )

  it('goes to the address that was looked at, whatever the name leads to by now', async () =>
    expect(await to('/')).to.deep.equal({ status: 200, text: '{"number":"T-1"}' }))

  it('reads no more of an answer than it needs', async () => {
    expect((await to('/large')).text).to.have.length(16 * 1024)
    expect(read).to.be.below(16 * 1024 * 1024)
  })

  it('says nothing of what a service said, and follows no redirect', async () => {
    expect(await saidOf(to('/secret')))
      .to.match(/answered 500$/)
      .and.not.contain('sparrowhawk')
    expect(await saidOf(to('/elsewhere'))).to.match(/answered 302$/)
  })
})
