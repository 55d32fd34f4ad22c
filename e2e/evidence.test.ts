import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from 'chai'
import { readPack, writePack } from '@jurybox/core/evidence'
import type { ElementHandle } from 'puppeteer-core'
import { press, shows, signIn, type } from './browser.ts'
import { PASSWORD, ROOT, useStage, type Stage } from './stage.ts'

/** From an audit to a pack that somebody else verifies, with one page and without the server. */
describe('evidence packs, in the browser', function () {
  this.timeout(240_000)
  let server: Stage['server']
  let page: Stage['page']
  let open: Stage['open']
  useStage((stage) => ({ server, page, open } = stage))
  const folder = mkdtempSync(join(tmpdir(), 'jurybox-verify-'))
  after(() => rmSync(folder, { recursive: true, force: true }))

  it('a report is put together: sections, order, a limit; the preview follows, and it is saved', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/reports')
    await press(page, 'Change contents')
    await page.waitForSelector('[aria-label="Move Scope up"]')
    await page.$eval('[aria-label="Move Scope up"]', (one) => (one as HTMLElement).click())
    await type(page, 'Title', 'For the board')
    await page.keyboard.press('Tab')
    await press(page, 'Close')
    await page.waitForFunction(() =>
      document.querySelector<HTMLIFrameElement>('.preview iframe')?.src.includes('title=For'),
    )
    await page.waitForFunction(
      () => document.querySelector<HTMLIFrameElement>('.preview iframe')?.src.includes('sections=scope') ?? false,
    )
    await page.waitForFunction(() => document.querySelector('.preview .wait') === null)
    const frame = await (await page.$('.preview iframe'))?.contentFrame()
    const text = (await frame?.$eval('body', (body) => body.innerText)) ?? ''
    expect(text).to.contain('For the board')
    expect(text.indexOf('Scope')).to.be.below(text.indexOf('Summary'))
    await press(page, 'Save this report')
    await press(page, 'Save', '.v-dialog button')
    await shows(page, 'For the board')
  })

  it('is made, signed and downloaded; the page of its own says that it is whole, or what was changed', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/reports/evidence')
    await press(page, 'Make evidence pack')
    await shows(page, 'Packs the records, rules, values')
    await press(page, 'Make evidence pack', '.v-dialog button')
    await shows(page, 'verdicts rest on masked secrets')
    const fingerprint = await page.$eval('.key .mono', (one) => one.textContent ?? '')
    const packed = await page.evaluate(async () => {
      const link = document.querySelector<HTMLAnchorElement>('a[aria-label^="Download pack"]')
      const bytes = new Uint8Array(await (await fetch(link?.href ?? '')).arrayBuffer())
      return Array.from(bytes)
    })
    const bytes = Uint8Array.from(packed)
    const files = readPack(bytes) ?? new Map<string, Uint8Array>()
    const path = 'snapshot/devices/qs-dist1/config.txt'
    const record = new TextDecoder()
      .decode(files.get(path))
      .replace('transport input telnet ssh', 'transport input ssh')
    const kept = join(folder, 'pack.zip')
    const changed = join(folder, 'changed.zip')
    writeFileSync(kept, bytes)
    writeFileSync(changed, writePack(new Map([...files, [path, new TextEncoder().encode(record)]])))

    await page.goto(`file://${ROOT}packages/web/dist/verify.html`)
    const verify = async (file: string): Promise<void> => {
      const field = (await page.$('input#pack')) as ElementHandle<HTMLInputElement> | null
      await field?.uploadFile(file)
      await press(page, 'Verify', 'button')
    }
    await type(page, 'Fingerprint of the key, as the report prints it', fingerprint)
    await verify(kept)
    await shows(page, 'Whole: no fault found')
    await shows(page, 'Isolde Wren')
    await verify(changed)
    await shows(page, 'faults found')
    await shows(page, path)
    await shows(page, 'qs-dist1 network-hardening saved-equals-running: fail stated, pass computed')
  })
})
