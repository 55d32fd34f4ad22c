/**
 * Takes one picture per main view from the demo data into docs/screenshots/.
 *   npm run screenshots
 */
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { deskOf, simulate } from '@jurybox/simulator'
import { connectDemo, loadDemo } from '../packages/server/src/demo.ts'
import { startServer } from '../packages/server/src/server.ts'
import { openBrowser, press, shows, signIn } from './browser.ts'

const root = fileURLToPath(new URL('..', import.meta.url))
const out = join(root, 'docs/screenshots')
mkdirSync(out, { recursive: true })
const folder = mkdtempSync(join(tmpdir(), 'jurybox-pictures-'))
const server = await startServer({ dataFolder: folder, port: 0, webFolder: join(root, 'packages/web/dist'), logLevel: 'error' })
const { browser, close } = await openBrowser()
try {
  const { password } = await loadDemo(server.services, join(root, 'scenario'))
  const page = await browser.newPage()
  const take = async (name: string, path: string | null, words: string): Promise<void> => {
    if (path !== null) await page.goto(`${server.address}${path}`)
    await shows(page, words)
    await new Promise((resolve) => setTimeout(resolve, 900))
    await page.screenshot({ path: join(out, `${name}.png`) })
    console.log(name)
  }
  await take('sign-in', '/sign-in', 'Sign in')
  await signIn(page, server.address, 'lead', password)
  await take('estate', '/e/1/estate', 'ops-core1')
  await take('snapshots', '/e/1/snapshots', 'Bring devices in')
  await take('benchmark', '/e/1/benchmarks/network-hardening', 'Find a rule')
  await take('coverage', '/e/1/benchmarks/network-hardening?tab=coverage', 'Administrative access encrypted')
  await take('questions', '/e/1/benchmarks/people-and-process', 'To be shown')
  await take('rule-bench', '/e/1/rule-bench', 'examples hold')
  await take('verdicts-grid', '/e/1/verdicts', 'The plain HTTP server is off')
  await take('tidying', '/e/1/verdicts?view=tidying&who=site%3Dqs', 'To type')
  await take('verdicts-list', '/e/1/verdicts?view=list&outcome=fail', 'vty-ssh-only')
  const verdict = await page.evaluate(async () => {
    const response = await fetch('/api/engagements/1/audits/2/verdicts?rule=vty-ssh-only&outcome=fail&device=qs-dist1')
    return ((await response.json()) as { verdicts: { id: number }[] }).verdicts[0]?.id
  })
  await take('verdict', `/e/1/verdicts/2/${verdict ?? 0}`, 'How it was decided')
  await take('device', '/e/1/estate/1', 'Interfaces (')
  const named = async (name: string): Promise<number> => page.evaluate(async (wanted) => ((await (await fetch('/api/engagements/1/devices')).json()) as { devices: { id: number; name: string }[] }).devices.find((one) => one.name === wanted)?.id ?? 0, name)
  await take('model', `/e/1/estate/${await named('ops-fw1')}?tab=system`, 'Unread (')
  await take('state', `/e/1/estate/${await named('qs-dist1')}?tab=state`, 'Set to')
  await take('reports', '/e/1/reports', 'Where it fails')
  await take('settings', '/e/1/settings', 'Who takes part')
  await page.goto(`${server.address}/e/1/verdicts`)
  await shows(page, 'The plain HTTP server is off')
  await press(page, 'Run an audit')
  await take('run-audit', null, 'Profile')
  // Last: it makes a snapshot that nothing was judged of.
  const network = await simulate(join(root, 'scenario/2026-11-16'), { settings: join(root, 'scenario'), snmp: true })
  const desk = deskOf(network)
  await desk.listen()
  try {
    await connectDemo(server.services, network, desk)
    await page.goto(`${server.address}/e/1/snapshots/collect`)
    await press(page, `Collect from all ${network.devices.length}`)
    await press(page, 'stopped: login')
    await take('collect', null, 'the credential does not fit')
    await take('set-up', '/e/1/set-up', '5 of 6 steps are done')
  } finally {
    await Promise.all([network.stop(), desk.stop()])
  }
} finally {
  await close()
  await server.stop()
  rmSync(folder, { recursive: true, force: true })
}
