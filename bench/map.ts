/**
 * The map in Debian's Chromium at 100 and 1,000 devices: how long the layout takes beside the page, and how long a
 * frame takes while the map is moved and zoomed. Prints figures of this run; nothing here is a test.
 *   npm run bench:map
 */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { openBrowser, shows, signIn } from '../e2e/browser.ts'
import { Memberships } from '../packages/server/src/engagements/entity.ts'
import { startServer } from '../packages/server/src/server.ts'

const root = fileURLToPath(new URL('..', import.meta.url))
const print = (name: string, value: string): void => console.log(name.padEnd(52), value)
const PASSWORD = 'a long enough password'

/** A tree of switches with eight below each, at sites of twenty. */
function files(count: number): { path: string; bytes: Uint8Array }[] {
  const port = (n: number): string => `TenGigabitEthernet1/${n}`
  const upOf = (n: number): number => Math.floor((n - 1) / 8)
  const head = 'Device ID           Local Intf     Hold-time  Capability      Port ID\n'
  return Array.from({ length: count }, (_, n) => {
    const below = Array.from({ length: 8 }, (_unused, i) => 8 * n + i + 1).filter((child) => child < count)
    const rows = [
      ...below.map((child, i) => [`b${child}`, `Te1/${i + 1}`, 'Te1/9']),
      ...(n > 0 ? [[`b${upOf(n)}`, 'Te1/9', `Te1/${((n - 1) % 8) + 1}`]] : []),
    ]
    const text = (content: string): Uint8Array => new TextEncoder().encode(content)
    const ports = Array.from({ length: 9 }, (_unused, i) => `interface ${port(i + 1)}\n no shutdown\n`).join('')
    return [
      { path: `devices/b${n}/config.txt`, bytes: text(`hostname b${n}\n${ports}ip http server\nend\n`) },
      { path: `devices/b${n}/device.yaml`, bytes: text(`site: s${Math.floor(n / 20)}\n`) },
      {
        path: `devices/b${n}/state/neighbours.txt`,
        bytes: text(
          head +
            rows
              .map(
                ([system = '', local = '', far = '']) =>
                  `${system.padEnd(20)}${local.padEnd(15)}110        B,R             ${far}`,
              )
              .join('\n') +
            '\n',
        ),
      },
    ]
  }).flat()
}

const folder = mkdtempSync(join(tmpdir(), 'jurybox-map-'))
const server = await startServer({
  dataFolder: folder,
  port: 0,
  webFolder: join(root, 'packages/web/dist'),
  logLevel: 'error',
})
const { browser, close } = await openBrowser()
try {
  const { services } = server
  const lead = await services.createUser({ name: 'lead', fullName: 'The lead', password: PASSWORD })
  services.setupCode = null
  const page = await browser.newPage()
  await signIn(page, server.address, 'lead', PASSWORD).catch(() => undefined)
  let first = 0
  for (const count of [100, 1_000]) {
    const { id } = await services.createEngagement({ title: `${count} devices`, client: '' }, lead)
    await services.database.getRepository(Memberships).update({ engagementId: id, userId: lead.id }, { role: 'lead' })
    await services.snapshots.freeze(await services.snapshots.importFolders([files(count)], id, lead.id), {
      title: 'S',
      note: '',
      takenAt: new Date(),
      settled: [],
      userId: lead.id,
    })
    const began = performance.now()
    await page.goto(`${server.address}/e/${id}/estate/map`)
    await shows(page, `${count} devices,`)
    const read = performance.now()
    await page.waitForFunction(
      () => document.querySelector('.holder canvas') !== null && document.querySelector('.laying') === null,
    )
    const drawn = performance.now()
    console.log(`\n${count} devices`)
    print('read for the first time, and answered', `${((read - began) / 1000).toFixed(1)} s`)
    print('laid out beside the page, and drawn', `${((drawn - read) / 1000).toFixed(1)} s`)
    const box = await (await page.$('.holder'))?.boundingBox()
    if (!box) throw new Error('no map')
    await page.mouse.move(box.x + box.width / 2, box.y + 12)
    // Every frame while the map is dragged and zoomed, as the browser draws them.
    await page.evaluate(`window.times = []; window.enough = false; {
      let last = performance.now()
      requestAnimationFrame(function tick(now) {
        window.times.push(now - last)
        last = now
        if (!window.enough) requestAnimationFrame(tick)
      })
    }`)
    await page.mouse.down()
    for (let i = 0; i < 60; i++) await page.mouse.move(box.x + box.width / 2 + 90 * Math.sin(i / 5), box.y + 12 + i * 2)
    await page.mouse.up()
    for (let i = 0; i < 20; i++) await page.mouse.wheel({ deltaY: i < 10 ? -60 : 60 })
    const times = ((await page.evaluate('window.enough = true, window.times')) as number[])
      .slice(1)
      .sort((a, b) => a - b)
    const median = times[times.length >> 1] ?? 0
    print(
      'a frame while it is moved, half of them within',
      `${median.toFixed(0)} ms${first > 0 ? `, ${(median / first).toFixed(1)} × that of 100 devices` : ''}`,
    )
    print(
      'nineteen of twenty within',
      `${(times[Math.floor(times.length * 0.95)] ?? 0).toFixed(0)} ms, of ${times.length} frames`,
    )
    first ||= median
  }
  print('peak memory of the server', `${Math.round(process.resourceUsage().maxRSS / 1024)} MB`)
} finally {
  await close()
  await server.stop()
  rmSync(folder, { recursive: true, force: true })
}
