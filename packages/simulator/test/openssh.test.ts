import { spawn, spawnSync } from 'node:child_process'
import { chmodSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { simulate, type SimulatedNetwork } from '@jurybox/simulator'

const scenario = fileURLToPath(new URL('../../../scenario/2026-11-16', import.meta.url))
const there = spawnSync('ssh', ['-V']).status === 0

/** The client of OpenSSH (Debian's openssh-client) knows nothing of us: what it can read, a person can. */
describe('a simulated device beside OpenSSH', function () {
  this.timeout(30_000)
  let network: SimulatedNetwork
  let folder: string
  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-openssh-'))
    network = await simulate(scenario)
  })
  after(async () => {
    await network.stop()
    rmSync(folder, { recursive: true, force: true })
  })

  ;(there ? it : it.skip)(
    `lets the ssh of OpenSSH log in and prints its listing${there ? '' : ' (not asked: there is no ssh here; apt-get install openssh-client)'}`,
    async () => {
      const ask = join(folder, 'ask')
      writeFileSync(ask, '#!/bin/sh\necho heron-at-low-tide\n')
      chmodSync(ask, 0o700)
      const device = network.devices.find(({ name }) => name === 'qs-dist1')
      const text = await new Promise<string>((resolve, reject) => {
        const child = spawn(
          'ssh',
          [
            '-tt',
            '-p',
            String(device?.port),
            '-o',
            'StrictHostKeyChecking=no',
            '-o',
            'UserKnownHostsFile=/dev/null',
            '-o',
            'LogLevel=ERROR',
            'jurybox@127.0.0.1',
          ],
          {
            env: { ...process.env, SSH_ASKPASS: ask, SSH_ASKPASS_REQUIRE: 'force', DISPLAY: 'none' },
            stdio: ['pipe', 'pipe', 'inherit'],
          },
        )
        let out = ''
        child.stdout.on('data', (data: Buffer) => (out += data.toString('utf8')))
        child.on('error', reject)
        child.on('close', () => resolve(out))
        child.stdin.write('terminal length 0\nenable\nheron-on-the-weir\nshow running-config\nexit\n')
      })
      expect(text).to.contain('qs-dist1#show running-config').and.contain('transport input telnet ssh')
      expect(
        text
          .replace(/\r/g, '')
          .split('\n')
          .map((line) => line.trimEnd()),
      ).to.include.members((device?.record('config') ?? '').split('\n').map((line) => line.trimEnd()))
    },
  )
})
