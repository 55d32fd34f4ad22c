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
import { settingsOf } from '../packages/server/src/operation/settings.ts'
import { startServer } from '../packages/server/src/server.ts'
import { openBrowser, press, shows, signIn, type } from './browser.ts'

const root = fileURLToPath(new URL('..', import.meta.url))
const out = join(root, 'docs/screenshots')
mkdirSync(out, { recursive: true })
const folder = mkdtempSync(join(tmpdir(), 'jurybox-pictures-'))
const server = await startServer({
  dataFolder: folder,
  port: 0,
  webFolder: join(root, 'packages/web/dist'),
  logLevel: 'error',
  settings: settingsOf({ JURYBOX_ALERT_TARGETS: '127.0.0.1', JURYBOX_CHECK_RESPONSES: '1' }),
})
const { browser, close } = await openBrowser()
/** Words that a page no longer shows: its picture is taken, and the run fails at its end. */
const missing: string[] = []
try {
  const { password } = await loadDemo(server.services, join(root, 'scenario'))
  const page = await browser.newPage()
  const take = async (name: string, path: string | null, words: string): Promise<void> => {
    if (path !== null) await page.goto(`${server.address}${path}`)
    await shows(page, words).catch(() => missing.push(`${name}: “${words}” is not on the page`))
    await page.waitForFunction(() => document.querySelector('.preview .wait') === null)
    await new Promise((resolve) => setTimeout(resolve, 900))
    await page.screenshot({ path: join(out, `${name}.png`) })
    console.log(name)
  }
  await signIn(page, server.address, 'lead', password)
  await take('overview', '/e/1/overview', 'Age of evidence')
  await take('estate', '/e/1/estate', 'approved')
  await page.goto(`${server.address}/e/1/estate/map`)
  await page.waitForSelector('.holder canvas')
  await new Promise((resolve) => setTimeout(resolve, 1500))
  await page.focus('.holder')
  for (const key of ['ArrowRight', 'ArrowUp', 'ArrowUp'] as const) await page.keyboard.press(key)
  await take('map', null, 'Links (')
  await page.goto(`${server.address}/e/1/search?q=${encodeURIComponent('telnet inside line')}`)
  await press(page, 'transport input telnet', '.part .as-link')
  await take('search', null, 'Configuration lines')
  await take('snapshots', '/e/1/snapshots', 'Import configurations')
  await take('benchmark', '/e/1/benchmarks/network-hardening', 'Network hardening')
  await take('rule-bench', '/e/1/rule-bench', 'examples pass')
  await take('verdicts-grid', '/e/1/verdicts', 'HTTP server is disabled')
  await take('remediation', '/e/1/verdicts?view=remediation&who=site%3Dqs', 'Commands')
  const verdict = await page.evaluate(async () => {
    const response = await fetch('/api/engagements/1/audits/2/verdicts?rule=vty-ssh-only&outcome=fail&device=qs-dist1')
    return ((await response.json()) as { verdicts: { id: number }[] }).verdicts[0]?.id
  })
  await take('verdict', `/e/1/verdicts/2/${verdict ?? 0}`, 'Decision')
  await take('device', '/e/1/estate/1?tab=interfaces', 'Interfaces (')
  await take('traffic', '/e/1/traffic/ask?from=10.40.204.0/24&to=10.40.10.0/24&only=tcp', 'unprotected')
  await take('changes', '/e/1/changes', 'devices changed')
  await take('device-changes', '/e/1/changes/device?device=qs-dist1', 'Meaning')
  await take('chronicle', '/e/1/chronicle', 'Configuration changes')
  await take('docket', '/e/1/verdicts/docket', 'reached from outside')
  await take('reports', '/e/1/reports', 'Failures by topic')
  // Last: it makes a snapshot that nothing was judged of.
  const network = await simulate(join(root, 'scenario/2026-11-16'), {
    settings: join(root, 'scenario'),
    snmp: true,
    spread: true,
    besides: join(root, 'scenario/besides'),
  })
  const desk = deskOf(network)
  await desk.listen()
  try {
    await connectDemo(server.services, network, desk)
    await page.goto(`${server.address}/e/1/snapshots/collect`)
    await press(page, `Collect from all ${network.devices.filter(({ untold }) => !untold).length}`)
    await press(page, 'stopped: login')
    await take('collect', null, 'the credential was refused')
    await page.goto(`${server.address}/e/1/snapshots/discover`)
    await shows(page, 'Discover devices')
    await type(page, 'Addresses of first devices', '10.40.255.22')
    await type(page, 'Most hops from there', '1')
    await press(page, 'Start discovery')
    await take('discovery', null, 'New (1)')
  } finally {
    await Promise.all([network.stop(), desk.stop()])
  }
} finally {
  await close()
  await server.stop()
  rmSync(folder, { recursive: true, force: true })
}
if (missing.length > 0) throw new Error(missing.join('\n'))
