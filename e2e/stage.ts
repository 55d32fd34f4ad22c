import { rmSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import type { Browser, Page } from 'puppeteer-core'
import { loadDemo } from '../packages/server/src/demo.ts'
import { settingsOf } from '../packages/server/src/operation/settings.ts'
import { startServer, type RunningServer } from '../packages/server/src/server.ts'
import { template } from '../packages/server/test/template.ts'
import { PATIENCE, heed, openBrowser } from './browser.ts'

export const ROOT = fileURLToPath(new URL('..', import.meta.url))
/** Of everybody in the demo. */
export const PASSWORD = 'kittiwake-at-dawn'

/** A server with the demo engagement, and a page of a browser of its own for each test. */
export interface Stage {
  readonly server: RunningServer
  readonly browser: Browser
  /** For files of the test. */
  readonly folder: string
  readonly page: Page
  open(path: string): Promise<void>
  /** The events of long work keep a connection open, so the network is never idle: the page is, when its words stay. */
  settled(): Promise<void>
  until(test: () => boolean | Promise<boolean>): Promise<unknown>
}

const serverOn = (dataFolder: string): Promise<RunningServer> =>
  startServer({
    dataFolder,
    port: 0,
    webFolder: join(ROOT, 'packages/web/dist'),
    signInLimit: 100,
    logLevel: 'error',
    settings: settingsOf({ JURYBOX_ALERT_TARGETS: '127.0.0.1', JURYBOX_CHECK_RESPONSES: '1' }),
  })

/** The demo engagement, loaded once for all suites. */
const demoFolder = template('browser', async (folder) => {
  const server = await serverOn(folder)
  await loadDemo(server.services, join(ROOT, 'scenario'))
  await server.stop()
})

/**
 * Sets the stage for the tests of a suite; what a page complains of on its console fails the test.
 * @param hand takes the stage before each test
 * @param prepare done once, when the demo is loaded; what it returns is done at the end
 */
export function useStage(
  hand: (stage: Stage) => void,
  prepare: (server: RunningServer) => Promise<() => Promise<unknown>> = async () => async () => undefined,
): void {
  let server: RunningServer
  let browser: Browser
  let page: Page
  let folder: string
  /** What was begun, to be ended in the reverse order, also where the rest did not begin. */
  const endings: (() => unknown)[] = []
  const troubles: string[] = []
  before(async () => {
    folder = await demoFolder()
    endings.push(() => rmSync(folder, { recursive: true, force: true }))
    server = await serverOn(folder)
    let clear: () => unknown = () => undefined
    endings.push(
      () => clear(),
      () => server.stop(),
    )
    clear = await prepare(server)
    const opened = await openBrowser()
    browser = opened.browser
    endings.push(opened.close)
  })
  after(async () => {
    for (const end of endings.reverse()) await end()
  })
  beforeEach(async () => {
    page = await (await browser.createBrowserContext()).newPage()
    troubles.length = 0
    heed(page, troubles)
    hand({
      server,
      browser,
      folder,
      page,
      open: async (path) => void (await page.goto(`${server.address}${path}`)),
      settled: async () => {
        for (let last = '', left = 40; left > 0; left--) {
          const now = await page.$eval('body', (body) => body.innerText)
          if (now === last && now.length > 100) return
          last = now
          await new Promise((resolve) => setTimeout(resolve, 150))
        }
      },
      until: (test) => page.waitForFunction(test, { timeout: PATIENCE }),
    })
  })
  afterEach(async () => {
    expect(troubles).to.deep.equal([])
    await page.browserContext().close()
  })
}
