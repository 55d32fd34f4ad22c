import { execFileSync, spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { connect } from 'node:net'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { LIMITS, collectDevice, type Collected, type Credential } from '@jurybox/collector'
import { commandSets } from '@jurybox/core/dialects'
import { readSnapshot } from '@jurybox/core'
import { stateOfDevice } from '@jurybox/core/analysis'
import type { ReadRecord } from '@jurybox/core/state'

/**
 * Against the sshd of OpenSSH, iproute2 and the filters of the kernel, in a network namespace that is reached over a
 * cable of its own.
 * Needs root, the packages openssh-server, iptables and iproute2; elsewhere it says so and is left out.
 */
const NAMESPACE = `jg-${process.pid}`
const [INSIDE, OUTSIDE] = [`ji${process.pid % 10_000}`, `jo${process.pid % 10_000}`]
const HOST = '10.99.77.2'
const PORT = 2022
const PATH = `${process.env['PATH'] ?? ''}:/usr/sbin:/sbin`

function why(): string | null {
  if (process.getuid?.() !== 0) return 'not root'
  for (const program of ['/usr/sbin/sshd', '/usr/sbin/iptables-save'])
    if (!existsSync(program)) return `there is no ${program}`
  const made = spawnSync('ip', ['netns', 'add', `${NAMESPACE}-try`], {
    encoding: 'utf8',
    env: { ...process.env, PATH },
  })
  if (made.status === 0) spawnSync('ip', ['netns', 'del', `${NAMESPACE}-try`])
  return made.status === 0 ? null : 'no network namespace can be made here'
}
const missing = why()
const within = (...command: string[]): string =>
  execFileSync('ip', ['netns', 'exec', NAMESPACE, ...command], { encoding: 'utf8', env: { ...process.env, PATH } })

describe('a Linux gateway behind the sshd of OpenSSH', function () {
  this.timeout(60_000)
  let folder: string
  let sshd: ChildProcess | null = null
  let credential: Credential
  before(async () => {
    if (missing !== null) return
    folder = mkdtempSync(join(tmpdir(), 'jurybox-gateway-'))
    const ip = (...args: string[]): string =>
      execFileSync('ip', args, { encoding: 'utf8', env: { ...process.env, PATH } })
    ip('netns', 'add', NAMESPACE)
    ip('link', 'add', OUTSIDE, 'type', 'veth', 'peer', 'name', INSIDE, 'netns', NAMESPACE)
    ip('addr', 'add', '10.99.77.1/30', 'dev', OUTSIDE)
    ip('link', 'set', OUTSIDE, 'up')
    within('ip', 'link', 'set', 'lo', 'up')
    within('ip', 'addr', 'add', `${HOST}/30`, 'dev', INSIDE)
    within('ip', 'link', 'set', INSIDE, 'up')
    within('ip', 'route', 'add', '198.51.100.0/24', 'via', '10.99.77.1')
    within('iptables', '-P', 'FORWARD', 'DROP')
    within('iptables', '-A', 'FORWARD', '-p', 'tcp', '-d', '198.51.100.7', '--dport', '443', '-j', 'ACCEPT')
    for (const [name, type] of [
      ['host', 'ed25519'],
      ['login', 'ed25519'],
    ] as const)
      execFileSync('ssh-keygen', ['-q', '-t', type, '-N', '', '-f', join(folder, name)])
    mkdirSync('/run/sshd', { recursive: true })
    writeFileSync(
      join(folder, 'config'),
      [
        `Port ${PORT}`,
        `ListenAddress ${HOST}`,
        `HostKey ${join(folder, 'host')}`,
        `AuthorizedKeysFile ${join(folder, 'login.pub')}`,
        'StrictModes no',
        'UsePAM no',
        'PasswordAuthentication no',
        'PermitRootLogin prohibit-password',
        `PidFile ${join(folder, 'pid')}`,
        '',
      ].join('\n'),
    )
    sshd = spawn('ip', ['netns', 'exec', NAMESPACE, '/usr/sbin/sshd', '-D', '-e', '-f', join(folder, 'config')], {
      stdio: 'ignore',
      env: { ...process.env, PATH },
    })
    for (let tries = 0; tries < 100 && !(await answers()); tries += 1)
      await new Promise((resolve) => setTimeout(resolve, 50))
    credential = {
      id: '1',
      user: userInfo().username,
      password: '',
      privateKey: readFileSync(join(folder, 'login'), 'utf8'),
    }
  })
  after(() => {
    if (missing !== null) return
    sshd?.kill()
    spawnSync('ip', ['netns', 'del', NAMESPACE])
    rmSync(folder, { recursive: true, force: true })
  })
  const answers = async (): Promise<boolean> =>
    new Promise((resolve) => {
      const socket = connect(PORT, HOST, () => (socket.destroy(), resolve(true))).on('error', () => resolve(false))
    })
  const collect = async (with_: Credential): Promise<Collected> => {
    const set = commandSets.get('linux')
    if (!set) throw new Error('no commands')
    return collectDevice({ name: 'gate', address: HOST, port: PORT, set, hostKey: null, old: false }, [with_], {
      ...LIMITS,
      again: 0,
    })
  }

  ;(missing === null ? it : it.skip)(
    `gives its rules, routes and addresses${missing === null ? '' : ` (left out: ${missing})`}`,
    async () => {
      const collected = await collect(credential)
      if (!collected.ok) throw new Error(`${collected.step}: ${collected.reason}`)
      expect(collected.hostKey).to.equal(
        /SHA256:(\S+)/
          .exec(execFileSync('ssh-keygen', ['-l', '-f', join(folder, 'host.pub')], { encoding: 'utf8' }))?.[1]
          ?.padEnd(44, '='),
      )
      const text = (kind: string): string => collected.records.find((record) => record.kind === kind)?.text ?? ''
      const rules = (listing: string): string[] =>
        listing.split('\n').filter((line) => line !== '' && !line.startsWith('#') && !line.startsWith(':'))
      expect(rules(text('filters'))).to.deep.equal(rules(within('iptables-save')))
      expect(text('filters')).to.contain('-A FORWARD -d 198.51.100.7/32 -p tcp -m tcp --dport 443 -j ACCEPT')
      // What was collected is read as what the kernel has.
      const { devices, refused } = readSnapshot(
        collected.records.map(({ kind, form, text: content }) => ({
          path: `devices/gate/${kind}.${form === 'json' ? 'json' : 'txt'}`,
          bytes: new TextEncoder().encode(content),
        })),
      )
      expect(refused).to.deep.equal([])
      const { state } = stateOfDevice((devices[0]?.records ?? []) as unknown as ReadRecord[])
      expect(state.routes.find(({ prefix }) => prefix === '198.51.100.0/24')?.nextHops).to.deep.include({
        address: '10.99.77.1',
        interface: INSIDE,
        discard: false,
      })
      expect(state.interfaces.find(({ name }) => name === INSIDE)).to.deep.include({ admin: 'up', oper: 'up' })
      expect(state.interfaces.find(({ name }) => name === INSIDE)?.addresses).to.include(`${HOST}/30`)
    },
  )

  ;(missing === null ? it : it.skip)(
    `lets nobody in who does not fit${missing === null ? '' : ` (left out: ${missing})`}`,
    async () => {
      expect(await collect({ id: '1', user: userInfo().username, password: 'wrong' })).to.include({
        ok: false,
        step: 'login',
      })
    },
  )
})
