import { readFileSync, readdirSync, mkdtempSync } from 'node:fs'
import { join } from 'node:path'
import { simulate, type SimulatedNetwork } from '@jurybox/simulator'
import { expect } from 'chai'
import { connectDemo } from '../packages/server/src/demo.ts'
import { PATIENCE, press, shows, signIn, type } from './browser.ts'
import { PASSWORD, ROOT, useStage, type Stage } from './stage.ts'

/** Knowing the estate: what is found joins it, people say what they know of it, and ask across it. */
describe('the estate, in the browser', function () {
  this.timeout(600_000)
  let network: SimulatedNetwork
  let server: Stage['server']
  let folder: string
  let page: Stage['page']
  let open: Stage['open']
  let until: Stage['until']
  useStage(
    (stage) => ({ server, folder, page, open, until } = stage),
    async ({ services }) => {
      network = await simulate(join(ROOT, 'scenario/2026-11-16'), {
        settings: join(ROOT, 'scenario'),
        weather: { 'ops-acc1': {}, 'ves-gannet': {}, 'ves-tern': {} },
        spread: true,
        besides: join(ROOT, 'scenario/besides'),
      })
      await connectDemo(services, network)
      return () => network.stop()
    },
  )
  const asked = async <T>(path: string): Promise<T> =>
    page.evaluate(async (at) => (await (await fetch(`/api/engagements/1/${at}`)).json()) as unknown, path) as Promise<T>
  const textOf = async (selector: string): Promise<string> =>
    page.$eval(selector, (element) => element.textContent?.trim() ?? '')
  const row = async (words: string, selector = 'tr'): Promise<string> =>
    (
      await page.waitForFunction(
        (wanted, where) =>
          [...document.querySelectorAll<HTMLElement>(where)].find((one) => one.innerText.includes(wanted))?.innerText,
        { timeout: PATIENCE },
        words,
        selector,
      )
    ).jsonValue() as Promise<string>

  it('the overview’s numbers are those of the tables that they open', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    await shows(page, 'Age of evidence')
    const number = async (name: string): Promise<number> => {
      await page.waitForSelector(`[data-overview="${name}"]`)
      return Number(await textOf(`[data-overview="${name}"]`))
    }
    const overview = {
      fail: await number('fail'),
      unknown: await number('unknown'),
      unread: await number('unread'),
      devices: await number('devices'),
      new: await number('new'),
      resolved: await number('resolved'),
      changed: await number('changed'),
    }
    const cards = Number(await textOf('[data-group="Card systems on shore"]'))
    expect(overview.devices).to.equal(19)
    await open('/e/1/verdicts')
    await page.waitForSelector('[data-count="fail"]')
    expect([Number(await textOf('[data-count="fail"]')), Number(await textOf('[data-count="unknown"]'))]).to.deep.equal(
      [overview.fail, overview.unknown],
    )
    const listed = async (query: string): Promise<number> =>
      (await asked<{ total: number }>(`audits/2/verdicts?${query}&limit=1`)).total
    expect([await listed('since=new'), await listed('since=resolved')]).to.deep.equal([overview.new, overview.resolved])
    const { devices } = await asked<{ devices: { unread: number }[] }>('devices')
    expect(devices.reduce((sum, one) => sum + one.unread, 0)).to.equal(overview.unread)
    await open('/e/1/estate?group=Card+systems+on+shore')
    await shows(page, `${cards} devices`)
    const drawn = await page.$$eval('tr.row', (rows) => rows.length)
    expect(drawn).to.equal(cards)
    expect(
      (await asked<{ devices: { changed: string }[] }>('estate/map')).devices.filter(
        ({ changed }) => changed === 'changed',
      ).length,
    ).to.equal(overview.changed)
  })

  it('a label is set in bulk: who is in, who is out and why, what came of each, and who did it', async () => {
    await signIn(page, server.address, 'engineer', PASSWORD)
    await open('/e/1/estate/labels')
    await press(page, 'Define label')
    await type(page, 'Name, such as handles_card_data', 'reviewed')
    await type(page, 'Description', 'Looked at in this audit')
    await press(page, 'Save')
    await shows(page, 'Looked at in this audit')
    await open('/e/1/estate')
    await shows(page, 'ops-core1')
    for (const name of ['ops-core1', 'ops-core2', 'qs-dist1'])
      await page.locator(`input[aria-label="Select ${name}"]`).click()
    await press(page, 'Set label on 3')
    await page.waitForSelector('.who')
    const labelled = (words: string): Promise<unknown> =>
      page.waitForFunction(
        (wanted) => document.querySelector('.form .v-select')?.textContent?.includes(wanted),
        { timeout: PATIENCE },
        words,
      )
    await labelled('afloat')
    await page.locator('.form .v-select').click()
    // The list takes its place before it can be clicked.
    await new Promise((resolve) => setTimeout(resolve, 500))
    await press(page, 'reviewed (text)', '.v-list-item-title')
    await labelled('reviewed (text)')
    await type(page, 'Value', 'yes, twice')
    expect(await row('qs-dist1', '.who tr')).to.include('yes, twice')
    await press(page, 'Set label on 3', '.end button')
    await until(() =>
      [...document.querySelectorAll<HTMLElement>('.who tr')].some((one) => /^qs-dist1\s+set$/.test(one.innerText)),
    )
    await press(page, 'Close')
    const ids = await asked<{ devices: { id: number; name: string }[] }>('devices')
    await open(`/e/1/estate/${ids.devices.find(({ name }) => name === 'qs-dist1')?.id ?? 0}`)
    await shows(page, 'yes, twice')
    expect(await page.$eval('dd[title^="set by Orla Finch"]', (element) => element.textContent)).to.include(
      'yes, twice',
    )
  })

  it('Shift chooses all rows from one to another', async () => {
    await signIn(page, server.address, 'engineer', PASSWORD)
    await open('/e/1/estate')
    await shows(page, 'ops-core1')
    const boxes = await page.$$('tr.row input[type=checkbox]')
    await boxes[1]?.click()
    await page.keyboard.down('Shift')
    await boxes[5]?.click()
    await page.keyboard.up('Shift')
    await shows(page, '5 selected of')
    await page.keyboard.down('Shift')
    await boxes[3]?.click()
    await page.keyboard.up('Shift')
    await shows(page, '2 selected of')
  })

  it('a saved search is a view of the table, a group, and the scope of a rule', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await page.keyboard.down('Control')
    await page.keyboard.press('k')
    await page.keyboard.up('Control')
    await page.keyboard.type('/^ ip access-group/ inside interface')
    await page.waitForFunction(
      () => [...document.querySelectorAll('[role="option"]')].some((one) => /found/.test(one.textContent ?? '')),
      { timeout: PATIENCE },
    )
    await press(page, 'search', '[role="option"] .kind')
    await shows(page, 'Configuration lines')
    const found = (
      await asked<{ kind: string; total: number; devices: number }[]>(
        `search?q=${encodeURIComponent('/^ ip access-group/ inside interface')}`,
      )
    ).find(({ kind }) => kind === 'line')
    await shows(page, `${found?.total} at ${found?.devices} devices`)
    // It opens at the line.
    await (await page.waitForSelector('.part .as-link'))?.click()
    const marked = await page.waitForFunction(() => document.querySelector('.line.current .text')?.textContent)
    expect(await marked.jsonValue()).to.match(/^ ip access-group/)
    await press(page, 'Save as group')
    await type(page, 'Group title', 'Filtered ports')
    await press(page, 'Save')
    await press(page, 'show the devices of “Filtered ports”')
    await shows(page, `${found?.devices} devices at`)
    expect(await page.$$eval('tr.row', (rows) => rows.length)).to.equal(found?.devices)
    await open('/e/1/estate/groups')
    expect(await row('Filtered ports')).to.match(new RegExp(`${found?.devices}\\s`))
    // As the scope of a rule: who is out of the group is out of scope.
    const text = `id: own-rules\ntitle: Own\nversion: 1.0.0\nstatement: s\nprofiles: [{ id: base, title: All }]\nrules:\n  - id: filtered\n    title: t\n    statement: s\n    topic: Names\n    severity: low\n    profile: base\n    references: []\n    dialects: [indented]\n    scope: '"Filtered ports" in device.groups'\n    decide:\n      - { id: found, outcome: fail, note: n }\n`
    const { csrf } = await page.evaluate(async () => (await (await fetch('/api/session')).json()) as { csrf: string })
    const outcomes = await page.evaluate(
      async (body, token) => {
        const answer = (await (
          await fetch('/api/engagements/1/own-benchmarks/trial', {
            method: 'POST',
            headers: { 'content-type': 'application/json', 'x-csrf-token': token },
            body: JSON.stringify({ text: body, snapshotId: 2 }),
          })
        ).json()) as { rules: { devices: { device: string; outcome: string }[] }[] }
        return answer.rules[0]?.devices ?? []
      },
      text,
      csrf,
    )
    const { inside } = (await asked<{ title: string; inside: string[] }[]>('groups')).find(
      ({ title }) => title === 'Filtered ports',
    ) ?? { inside: [] }
    expect(
      outcomes
        .filter(({ outcome }) => outcome === 'fail')
        .map(({ device }) => device)
        .sort(),
    ).to.deep.equal(inside)
    expect(outcomes.filter(({ outcome }) => outcome === 'notapplicable').length).to.be.greaterThan(0)
  })

  it('the map shows an overlay, is walked by keys, opens a device, and goes out as a picture', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/estate/map?overlay=approved')
    expect(await row('not approved', '.legend li')).to.include('4')
    expect(await row('ends disagree', '.legend li')).to.include('1')
    await until(() => document.querySelector('.holder canvas') !== null)
    await page.focus('.holder')
    await page.keyboard.press('ArrowDown')
    await until(() => document.querySelector('.detail h2')?.textContent !== 'No device selected')
    const first = await textOf('.detail h2')
    const walked = new Set([first])
    for (const key of ['ArrowUp', 'ArrowLeft', 'ArrowRight', 'ArrowDown'] as const) {
      await page.keyboard.press(key)
      walked.add(await textOf('.detail h2'))
    }
    expect(walked.size, [...walked].join(', ')).to.be.greaterThan(1)
    const downloads = mkdtempSync(join(folder, 'downloads-'))
    await (
      await page.createCDPSession()
    ).send('Page.setDownloadBehavior', { behavior: 'allow', downloadPath: downloads })
    await press(page, 'SVG')
    await press(page, 'PNG')
    for (
      let left = 300;
      left > 0 && readdirSync(downloads).filter((name) => /\.(?:svg|png)$/.test(name)).length < 2;
      left--
    )
      await new Promise((resolve) => setTimeout(resolve, 100))
    const svg = readFileSync(join(downloads, 'map.svg'), 'utf8')
    expect(svg).to.include('>qs-dist1</text>').and.include('Quay South').and.include('ends disagree')
    expect(readFileSync(join(downloads, 'map.png')).subarray(1, 4).toString()).to.equal('PNG')
    const name = await textOf('.detail h2')
    await page.focus('.holder')
    await page.keyboard.press('Enter')
    await page.waitForFunction(
      (wanted) => document.querySelector('h1')?.textContent === wanted,
      { timeout: PATIENCE },
      name,
    )
    // The same as a table.
    await open('/e/1/estate/map?as=links')
    expect(await row('dd-sw1 sees ops-core2')).to.include('ends disagree')
  })

  it('tables over the estate open the lines that each row stands on', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    await open('/e/1/estate/tables?table=redundancy')
    await page.waitForSelector('tr.row')
    await page.click('tr.row')
    await page.waitForSelector('.members li')
    const marked = await page.waitForFunction(() => document.querySelector('.line.current .text')?.textContent)
    expect(await marked.jsonValue()).to.match(/standby|vrrp/)
  })

  it('a switch that nobody told of is discovered, looked over, and joins with the next collection', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/snapshots')
    await press(page, 'Discover devices')
    await type(page, 'Addresses of first devices', '10.40.255.22')
    await type(page, 'Most hops from there', '1')
    await type(page, 'SSH port', String(network.sharedPort))
    await press(page, 'Start discovery')
    await shows(page, 'New (1)')
    const said = await row('qs-acc9')
    expect(said).to.include('Ostrel C-24, 6.9').and.include('seen by qs-dist1').and.include('to decide')
    await press(page, 'Add to inventory (1)')
    await shows(page, 'added with the next collection')
    await shows(page, 'accepted by Isolde Wren')
    await press(page, 'Collect from 1 added')
    await page.waitForFunction(
      async () =>
        ((await (await fetch('/api/engagements/1/devices')).json()) as { devices: { name: string }[] }).devices.some(
          ({ name }) => name === 'qs-acc9',
        ),
      { timeout: PATIENCE, polling: 500 },
    )
    // A range is counted before it is tried.
    await type(page, 'Addresses of first devices', ' ')
    await type(page, 'Scan range (optional)', '10.40.255.40/29')
    await press(page, 'Count addresses')
    await shows(page, '6 addresses of 10.40.255.40/29 will be tried')
    expect(await page.$eval('body', (body) => body.innerText)).to.not.contain('heron-at-low-tide')
  })
})
