import { cpSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import { LIMITS } from '@jurybox/collector'
import { readSnapshot } from '@jurybox/core'
import { simulate, type SimulatedNetwork } from '@jurybox/simulator'
import { stringify } from 'yaml'
import { collectCommand } from '../src/collect.ts'

const scenario = fileURLToPath(new URL('../../../scenario/2026-11-16/devices/', import.meta.url))

describe('jurybox collect', function () {
  this.timeout(120_000)
  let folder: string
  let network: SimulatedNetwork
  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-collect-'))
    for (const name of ['qs-dist1', 'qs-fw1', 'dd-gw1'])
      cpSync(join(scenario, name), join(folder, 'network/devices', name), { recursive: true })
    network = await simulate(join(folder, 'network'))
  })
  after(async () => {
    await network.stop()
    rmSync(folder, { recursive: true, force: true })
  })
  const inventory = (more: object = {}): string => {
    const file = join(folder, 'inventory.yaml')
    const devices = network.devices.map(({ name, dialect, port }) => ({ name, dialect, address: '127.0.0.1', port }))
    writeFileSync(
      file,
      stringify({
        accounts: [{ user: 'jurybox', passwordFrom: 'DEVICE_PASSWORD', privilegedFrom: 'DEVICE_RIGHTS' }],
        devices,
        ...more,
      }),
    )
    return file
  }
  const environment = { DEVICE_PASSWORD: 'heron-at-low-tide', DEVICE_RIGHTS: 'heron-on-the-weir' }
  async function run(
    args: string[],
    env: NodeJS.ProcessEnv = environment,
  ): Promise<{ status: number; out: string; err: string }> {
    let [out, err] = ['', '']
    const status = await collectCommand(
      args,
      { stdout: (text) => void (out += text), stderr: (text) => void (err += text) },
      env,
      { ...LIMITS, silence: 15_000, again: 0 },
    )
    return { status, out, err }
  }

  it('writes a snapshot folder that reads back as the devices are', async () => {
    const out = join(folder, 'taken')
    const { status, out: said } = await run([inventory(), '--out', out])
    expect(status).to.equal(0)
    expect(said).to.contain('qs-dist1: ').and.contain('host key ')
    const files = readdirSync(out, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => join(entry.parentPath, entry.name))
    const snapshot = readSnapshot(
      files.map((path) => ({ path: path.slice(out.length + 1), bytes: readFileSync(path) })),
    )
    expect(snapshot.refused).to.deep.equal([])
    expect(snapshot.devices.map(({ name, dialect }) => `${name} ${dialect.id}`).sort()).to.deep.equal([
      'dd-gw1 linux',
      'qs-dist1 indented',
      'qs-fw1 setlines',
    ])
  })

  it('1: a device is missing, and the reason is on the error output', async () => {
    const [first] = network.devices
    if (first) first.weather = { locked: true }
    const { status, err } = await run([inventory(), '--out', join(folder, 'some')])
    if (first) first.weather = {}
    expect([status, err]).to.deep.equal([1, `${first?.name}: not collected (login): the credential was refused\n`])
  })

  for (const [what, args, env, said] of [
    ['no folder', (file: string) => [file], environment, 'jurybox collect INVENTORY'],
    [
      'a secret that is not there',
      (file: string) => [file, '--out', 'x'],
      {},
      'the variable DEVICE_PASSWORD is not set',
    ],
    ['a file that is none', () => ['/no/such/file', '--out', 'x'], environment, '/no/such/file'],
  ] as const) {
    it(`2: ${what}`, async () => {
      const { status, err } = await run(args(inventory()), env)
      expect(status).to.equal(2)
      expect(err).to.contain(said)
    })
  }
  it('2: a dialect that nobody has commands for', async () => {
    const { status, err } = await run([
      inventory({ devices: [{ name: 'a', dialect: 'runes', address: '127.0.0.1' }] }),
      '--out',
      'x',
    ])
    expect([status, err.includes('"a": there are no commands for the dialect "runes"')]).to.deep.equal([2, true])
  })
})
