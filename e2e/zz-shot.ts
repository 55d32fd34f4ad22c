import { openBrowser, shows, signIn } from './browser.ts'
const [,, ...jobs] = process.argv
const { browser, close } = await openBrowser()
const page = await browser.newPage()
page.on('console', (m) => { if (['error', 'warn'].includes(m.type())) console.log('console:', m.text()) })
page.on('pageerror', (e) => console.log('pageerror', String(e)))
await signIn(page, 'http://127.0.0.1:4680', 'lead', 'kittiwake-at-dawn')
const ids = await page.evaluate(async () => Object.fromEntries(((await (await fetch('/api/engagements/1/devices')).json()) as { devices: { id: number; name: string }[] }).devices.map((d) => [d.name, d.id])))
for (const job of jobs) {
  const [name, path, words, act] = job.split('|')
  await page.goto('http://127.0.0.1:4680' + path!.replace(/:(\S+?):/, (_, n) => String(ids[n])))
  await shows(page, words!, 15000).catch((e) => console.log(name, String(e)))
  if (act) await page.evaluate(act)
  await new Promise((r) => setTimeout(r, 800))
  await page.screenshot({ path: `/tmp/shots/${name}.png` })
}
await close()
