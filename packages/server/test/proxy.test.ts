import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { request } from 'node:https'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { settingsOf } from '../src/operation/settings.ts'
import { startServer, type RunningServer } from '../src/server.ts'

const EXAMPLE = fileURLToPath(new URL('../../../docs/nginx/jurybox.conf', import.meta.url))
const PASSWORD = 'a long enough password'
const nginx = ['/usr/sbin/nginx', '/usr/bin/nginx'].find((path) => existsSync(path))
const openssl = spawnSync('openssl', ['version']).status === 0
const missing = !nginx
  ? 'there is no nginx here; apt-get install nginx-light'
  : openssl
    ? null
    : 'there is no openssl here'

function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer().once('error', reject)
    probe.listen(0, '127.0.0.1', () => {
      const address = probe.address()
      probe.close(() => resolve(typeof address === 'object' && address ? address.port : 0))
    })
  })
}

describe('behind nginx with TLS', function () {
  this.timeout(60_000)
  let folder: string
  let server: RunningServer
  let proxy: ChildProcess | null = null
  let port = 0
  before(async function () {
    if (missing !== null) return
    folder = mkdtempSync(join(tmpdir(), 'jurybox-proxy-'))
    server = await startServer({
      dataFolder: join(folder, 'data'),
      port: 0,
      webFolder: null,
      logLevel: 'fatal',
      settings: settingsOf({ JURYBOX_PUBLIC_URL: 'https://audit.example', JURYBOX_CHECK_RESPONSES: '1' }),
    })
    await server.services.createUser({ name: 'lead', fullName: 'L', password: PASSWORD, isAdmin: true, mayOpen: true })
    port = await freePort()
    spawnSync('openssl', [
      'req',
      '-x509',
      '-newkey',
      'ec',
      '-pkeyopt',
      'ec_paramgen_curve:prime256v1',
      '-nodes',
      '-days',
      '1',
      '-subj',
      '/CN=audit.example',
      '-keyout',
      join(folder, 'key.pem'),
      '-out',
      join(folder, 'cert.pem'),
    ])
    // The example of the documentation, with addresses of this test.
    const example = readFileSync(EXAMPLE, 'utf8')
      .replace('listen 443 ssl', `listen 127.0.0.1:${port} ssl`)
      .replace('http://127.0.0.1:4680', server.address)
      .replace('/etc/nginx/audit.example.crt', join(folder, 'cert.pem'))
      .replace('/etc/nginx/audit.example.key', join(folder, 'key.pem'))
    const temporary = ['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi']
      .map((name) => `${name}_temp_path ${join(folder, name)};`)
      .join('\n')
    writeFileSync(
      join(folder, 'nginx.conf'),
      `daemon off;\nmaster_process off;\npid ${join(folder, 'nginx.pid')};\nerror_log ${join(folder, 'error.log')};\nevents {}\nhttp {\naccess_log off;\n${temporary}\n${example}\n}\n`,
    )
    proxy = spawn(nginx ?? '', ['-c', join(folder, 'nginx.conf'), '-p', folder], { stdio: 'ignore' })
    for (let left = 100; left > 0 && (await asked('GET', '/healthz').catch(() => null)) === null; left--)
      await new Promise((resolve) => setTimeout(resolve, 50))
  })
  after(async () => {
    if (missing !== null) return
    proxy?.kill('SIGTERM')
    await server.stop()
    rmSync(folder, { recursive: true, force: true })
  })

  function asked(
    method: string,
    path: string,
    body?: object,
    headers: Record<string, string> = {},
  ): Promise<{ status: number; headers: Record<string, string | string[] | undefined>; text: string }> {
    return new Promise((resolve, reject) => {
      const text = body && JSON.stringify(body)
      const sent = request(
        {
          host: '127.0.0.1',
          port,
          method,
          path,
          servername: 'audit.example',
          ca: readFileSync(join(folder, 'cert.pem')),
          agent: false,
          headers: {
            host: 'audit.example',
            ...(text ? { 'content-type': 'application/json', 'content-length': Buffer.byteLength(text) } : {}),
            ...headers,
          },
        },
        (response) => {
          let answer = ''
          response.on('data', (part: Buffer) => (answer += part.toString()))
          response.on('end', () =>
            resolve({ status: response.statusCode ?? 0, headers: response.headers, text: answer }),
          )
        },
      )
      sent.on('error', reject)
      sent.end(text)
    })
  }

  const checks: readonly [string, () => Promise<void>][] = [
    [
      'people sign in by TLS, with a Secure cookie and HSTS, and the session knows their address',
      async () => {
        const answer = await asked(
          'POST',
          '/api/sign-in',
          { name: 'lead', password: PASSWORD },
          { 'x-forwarded-for': '203.0.113.250' },
        )
        expect(answer.status, answer.text).to.equal(200)
        expect(String(answer.headers['set-cookie'])).to.match(/HttpOnly; Secure; SameSite=Strict/)
        expect(answer.headers['strict-transport-security']).to.match(/^max-age=/)
        const [{ address }] = await server.services.database.query('SELECT address FROM sessions')
        expect(address, 'what a client claims of itself is not believed').to.equal('127.0.0.1')
      },
    ],
    [
      'the figures stay on the machine',
      async () => {
        for (const path of ['/metrics', '/readyz']) expect((await asked('GET', path)).status, path).to.equal(404)
        expect((await asked('GET', '/healthz')).status).to.equal(200)
      },
    ],
    [
      'another name is not answered',
      async () => {
        expect((await asked('GET', '/api/standing', undefined, { host: 'evil.example' })).status).to.equal(421)
      },
    ],
  ]
  for (const [what, check] of checks)
    (missing === null ? it : it.skip)(`${what}${missing === null ? '' : ` (left out: ${missing})`}`, check)
})
