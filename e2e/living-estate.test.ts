import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect } from 'chai'
import type { Browser, Page } from 'puppeteer-core'
import { deskOf, simulate, type Desk, type SimulatedDevice, type SimulatedNetwork } from '@jurybox/simulator'
import { settingsOf } from '../packages/server/src/operation/settings.ts'
import { startServer, type RunningServer } from '../packages/server/src/server.ts'
import { heed, openBrowser, press, shows, type } from './browser.ts'

const root = fileURLToPath(new URL('..', import.meta.url))
const PASSWORD = 'a long enough password'
const NAMES = ['ops-core2', 'ops-fw1', 'ops-acc1', 'dd-gw1']

/** From an empty installation to one that looks after itself, in one session of one person. */
describe('the living estate, in the browser', function () {
  this.timeout(600_000)
  let server: RunningServer
  let network: SimulatedNetwork
  let desk: Desk
  let browser: Browser
  let close: () => Promise<void>
  let folder: string
  let page: Page
  const troubles: string[] = []

  before(async () => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-living-'))
    network = await simulate(join(root, 'scenario/2026-11-16'), {
      settings: join(root, 'scenario'),
      weather: { 'ops-acc1': { locked: true } },
    })
    desk = deskOf(network)
    await desk.listen()
    server = await startServer({
      dataFolder: folder,
      port: 0,
      webFolder: join(root, 'packages/web/dist'),
      logLevel: 'error',
      settings: settingsOf({ JURYBOX_ALERT_TARGETS: '127.0.0.1', JURYBOX_CHECK_RESPONSES: '1' }),
    })
    ;({ browser, close } = await openBrowser())
    page = await browser.newPage()
    heed(page, troubles)
  })
  after(async () => {
    await close()
    await server.stop()
    await Promise.all([network.stop(), desk.stop()])
    rmSync(folder, { recursive: true, force: true })
  })
  afterEach(() => expect(troubles.splice(0)).to.deep.equal([]))
  const device = (name: string): SimulatedDevice => network.devices.find((one) => one.name === name) as SimulatedDevice
  const until = async (holds: () => boolean): Promise<void> => {
    for (let tries = 0; tries < 600 && !holds(); tries += 1) await new Promise((resolve) => setTimeout(resolve, 50))
    expect(holds()).to.equal(true)
  }

  it('is set up on the first visit: user, key, credential, devices, collection with its ladder, schedule, alert', async () => {
    await page.goto(`${server.address}/first-user`)
    await type(page, 'One-time code (printed by the start command)', server.services.setupCode ?? '')
    await type(page, 'Your full name', 'Isolde Wren')
    await type(page, 'Sign-in name', 'isolde')
    await type(page, 'Password, at least 15 characters', PASSWORD)
    await type(page, 'First engagement', 'Ferries')
    await press(page, 'Create and sign in')
    await press(page, 'Connect to devices', 'a')
    await shows(page, '0 of 6 steps done')
    await press(page, 'I have a copy')

    await press(page, 'Add credential')
    const [account] = network.accounts
    await type(page, 'Title', 'Audit account')
    await type(page, 'User on the devices', account?.user ?? '')
    await type(page, 'Password', account?.password ?? '')
    await type(page, 'Enable password (if different)', account?.privileged ?? '')
    await press(page, 'Save')
    await shows(page, '2 of 6 steps done')

    await press(page, 'Add devices')
    await type(
      page,
      'Or several as CSV: device,dialect,address,port,netconf,snmp',
      NAMES.map(
        (name) =>
          `${name},${device(name).dialect},127.0.0.1,${device(name).port},${device(name).speaksNetconf ? device(name).port : ''},`,
      ).join('\n'),
    )
    await press(page, `Save ${NAMES.length} devices`)
    await shows(page, '3 of 6 steps done')
    await press(page, `Collect from all ${NAMES.length}`)
    await shows(page, '4 of 6 steps done')

    await press(page, 'Add schedule')
    await type(page, 'Title of the schedule', 'Month by month')
    await shows(page, 'on the first Monday of the month at 06:30')
    await press(page, 'Save')
    await shows(page, '5 of 6 steps done')
    await press(page, 'Add alert')
    await type(page, 'Title of the alert', 'The team')
    await type(page, 'Mail server', '127.0.0.1')
    await type(page, 'Port', String(desk.smtpPort))
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLElement>('.v-select')]
        .find((one) => one.textContent?.includes('Encryption'))
        ?.querySelector<HTMLElement>('.v-field')
        ?.dispatchEvent(new MouseEvent('mousedown', { bubbles: true })),
    )
    await page.waitForFunction(() => {
      const item = [...document.querySelectorAll<HTMLElement>('.v-list-item')].find(
        (one) => one.innerText.trim() === 'Not encrypted',
      )
      item?.click()
      return item !== undefined
    })
    await type(page, 'From', 'jury@box.example')
    await type(page, 'To (separate with commas)', 'team@ferries.example')
    await press(page, 'Save')
    await shows(page, '6 of 6 steps done')
    await page.goto(`${server.address}/e/1/snapshots/collect`)
    await press(page, 'Send test')
    await until(() => desk.mails.length === 1)
    await shows(page, 'Last delivery: sent')
    expect(desk.mails[0]?.subject).to.equal('Ferries: test message')

    await press(page, 'stopped: login')
    await shows(page, 'the credential was refused')
    expect(await page.$$eval('.ladder .done', (steps) => steps.length)).to.equal(5)
    expect(await page.$eval('.ladder .stopped', (step) => step.textContent)).to.contain('login')
    expect(await page.$eval('body', (body) => body.innerText)).to.not.contain('heron')
  })

  it('tells by mail what a quick fix has changed, with the lines, and keeps both states in the archive', async () => {
    desk.mails.length = 0
    await page.goto(`${server.address}/e/1/snapshots`)
    await press(page, 'Tag')
    await type(page, 'Tags', 'approved')
    await page.keyboard.press('Enter')
    await press(page, 'Save')
    await page.waitForFunction(() =>
      [...document.querySelectorAll('.tag')].some((one) => one.textContent === 'approved'),
    )

    const quickFix = network.step()
    expect(quickFix?.device).to.equal('ops-core2')
    await page.goto(`${server.address}/e/1/snapshots/collect`)
    await press(page, `Collect from all ${NAMES.length}`)
    await until(() => desk.mails.length > 0)
    expect(desk.mails[0]?.subject).to.equal('Ferries: 1 changed configuration, 1 failed collection')
    expect(desk.mails[0]?.text).to.contain('ops-core2').and.contain('+ transport input telnet ssh')
    expect(desk.mails[0]?.attachments[0]?.text).to.contain('ops-acc1')

    await page.goto(`${server.address}/e/1/estate`)
    await press(page, 'ops-core2')
    await page.waitForFunction(() => /estate\/\d+/.test(location.pathname))
    await page.goto(`${page.url().split('?')[0]}?tab=history`)
    await shows(page, 'lines differ')
    expect(await page.$$eval('.sheets .come', (lines) => lines.map((line) => line.textContent))).to.include(
      '+ transport input telnet ssh',
    )

    await page.goto(`${server.address}/e/1/snapshots`)
    await shows(page, 'Retention')
    await press(page, 'Edit', '.keeping button')
    await type(page, 'Days (empty: for ever)', '1')
    await shows(page, 'No snapshot is deleted now.')
    await press(page, 'Save')
    await shows(page, '1 day.')
    expect(
      await page.$$eval('a[download]', (links) => links.map((link) => link.getAttribute('href'))),
    ).to.include.members(['/api/engagements/1/snapshots/2/masked.zip', '/api/engagements/1/snapshots/2/folder.zip'])
  })
})
