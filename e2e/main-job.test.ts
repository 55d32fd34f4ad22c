import { mkdirSync, mkdtempSync, readFileSync, readdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import axe from 'axe-core'
import { expect } from 'chai'
import type { ElementHandle } from 'puppeteer-core'
import { simulate } from '@jurybox/simulator'
import { connectDemo } from '../packages/server/src/demo.ts'
import { PATIENCE, press, shows, signIn, type } from './browser.ts'
import { PASSWORD, ROOT, useStage, type Stage } from './stage.ts'

describe('in the browser', function () {
  this.timeout(600_000)
  let server: Stage['server']
  let folder: string
  let page: Stage['page']
  let open: Stage['open']
  let settled: Stage['settled']
  let until: Stage['until']
  useStage((stage) => ({ server, folder, page, open, settled, until } = stage))
  const counts = async (): Promise<Record<string, number>> =>
    page.$$eval('[data-count]', (elements) =>
      Object.fromEntries(
        elements.map((element) => [(element as HTMLElement).dataset['count'] ?? '', Number(element.textContent)]),
      ),
    )

  function samples(): string[] {
    const place = join(folder, 'samples')
    mkdirSync(place, { recursive: true })
    const files = {
      'harbour.cfg':
        'hostname harbour\nip http server\nsnmp-server community sparrowhawk RO\nline vty 0 4\n login local\n transport input telnet\nend\n',
      'jetty.cfg': 'hostname jetty\nno ip http server\nfrobnicate the quay\nend\n',
      'photo.txt': Buffer.from([0xff, 0xd8, 0xff, 0xe0]),
    }
    for (const [name, content] of Object.entries(files)) writeFileSync(join(place, name), content)
    return Object.keys(files).map((name) => join(place, name))
  }

  it('goes from dropped files to a downloaded report whose numbers are those of the screen', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/')
    await open('/e/1/snapshots')
    await shows(page, 'Import configurations')
    const input = (await page.waitForSelector('#choose-files')) as ElementHandle<HTMLInputElement>
    await input.uploadFile(...samples())
    await shows(page, '2 devices imported, 1 file refused')
    await shows(page, 'JPEG image')
    await shows(page, 'carried over from the snapshot before')
    await type(page, 'Snapshot title', 'After the storm')
    await press(page, 'Freeze snapshot')
    await shows(page, '“After the storm” is frozen with 21 devices')
    await press(page, 'Run audit')
    await press(page, 'Run audit', '.v-dialog button')
    await press(page, 'View verdicts')
    await shows(page, 'verdicts reused')

    const onScreen = await counts()
    expect(onScreen['fail']).to.be.above(56)
    await page.waitForSelector('[role="grid"]')
    const cell = await page.waitForFunction(() =>
      [...document.querySelectorAll<HTMLElement>('a.cell')].find(
        (link) => link.title === 'harbour, vty-ssh-only: fail, new',
      ),
    )
    await (cell as ElementHandle<HTMLElement>).click()
    await shows(page, '"line vty 0 4" accepts telnet.')
    const marked = await page.waitForFunction(() => {
      const lines = [...document.querySelectorAll<HTMLElement>('.line.marked, .line.current')]
      return lines.length > 0
        ? lines.map((line) => `${line.dataset['line']} ${line.querySelector('.text')?.textContent ?? ''}`)
        : null
    })
    expect(await marked.jsonValue()).to.deep.equal(['4 line vty 0 4', '6  transport input telnet'])
    expect(await page.$eval('[data-remedy]', (element) => element.textContent)).to.equal(
      'line vty 0 4\n transport input ssh\nexit\nip ssh version 2',
    )
    expect(await page.$eval('body', (body) => body.innerText))
      .to.contain('snmp-server community ‹secret:')
      .and.not.contain('sparrowhawk')

    await open('/e/1/reports')
    const downloads = mkdtempSync(join(folder, 'downloads-'))
    const session = await page.createCDPSession()
    await session.send('Page.setDownloadBehavior', { behavior: 'allow', downloadPath: downloads })
    for (const form of ['JSON', 'HTML', 'PDF', 'CSV', 'SARIF']) await press(page, form)
    const waitFor = async (ending: string): Promise<string> => {
      for (let left = 900; ; left--) {
        const name = readdirSync(downloads).find((file) => file.endsWith(ending))
        if (name !== undefined) return join(downloads, name)
        if (left === 0) throw new Error(`no download of ${ending}`)
        await new Promise((resolve) => setTimeout(resolve, 100))
      }
    }
    const report = JSON.parse(readFileSync(await waitFor('.json'), 'utf8')) as {
      counts: Record<string, number>
      verdicts: unknown[]
      expected: { outcome: string }[]
    }
    for (const outcome of ['pass', 'fail', 'unknown', 'error', 'notapplicable', 'notchecked'])
      expect(report.counts[outcome], outcome).to.equal(onScreen[outcome])
    const html = readFileSync(await waitFor('.html'), 'utf8')
    expect(html.match(/<article /g)).to.have.length(
      (onScreen['fail'] ?? 0) +
        (onScreen['unknown'] ?? 0) +
        (onScreen['error'] ?? 0) +
        report.expected.filter(({ outcome }) => outcome !== 'pass').length,
    )
    expect(html).to.contain(`<b>${onScreen['fail']}</b> fail`)
    expect(
      readFileSync(await waitFor('.csv'), 'utf8')
        .split('\r\n')
        .filter((line) => line.startsWith('harbour,')).length,
    ).to.be.above(20)
    expect(
      (JSON.parse(readFileSync(await waitFor('.sarif'), 'utf8')) as { runs: { results: unknown[] }[] }).runs[0]
        ?.results,
    ).to.have.length(report.verdicts.length + report.expected.length)
    expect(
      readFileSync(await waitFor('.pdf'))
        .subarray(0, 5)
        .toString(),
    ).to.equal('%PDF-')
  })

  it('goes the same way by keyboard alone', async () => {
    const tabTo = async (test: (element: Element) => boolean): Promise<void> => {
      for (let steps = 0; steps < 120; steps++) {
        await page.keyboard.press('Tab')
        if (await page.evaluate(`(${test.toString()})(document.activeElement)`)) return
      }
      throw new Error(`Tab does not lead to ${test.toString()}`)
    }
    const jump = async (to: string): Promise<void> => {
      await page.keyboard.down('Control')
      await page.keyboard.press('k')
      await page.keyboard.up('Control')
      await page.keyboard.type(to)
      await page.waitForFunction(
        (wanted) => document.querySelector('#hit-0')?.textContent?.toLowerCase().includes(wanted),
        { timeout: PATIENCE },
        to,
      )
      await page.keyboard.press('Enter')
    }
    await page.goto(`${server.address}/sign-in`)
    await until(() => document.activeElement?.tagName === 'INPUT')
    await page.keyboard.type('lead')
    await page.keyboard.press('Tab')
    await page.keyboard.type(PASSWORD)
    await page.keyboard.press('Enter')
    await shows(page, 'as of')

    await jump('snapshots')
    await shows(page, 'Import configurations')
    await tabTo((element) => element.textContent?.trim() === 'Paste')
    await page.keyboard.press('Enter')
    await tabTo((element) => element.tagName === 'TEXTAREA')
    await page.keyboard.type('hostname pier\nip http server\nline vty 0 4\n transport input all\n')
    await tabTo((element) => element.textContent?.trim() === 'Import')
    await page.keyboard.press('Enter')
    await shows(page, '1 device imported')
    await tabTo((element) => element.textContent?.trim() === 'Freeze snapshot')
    await page.keyboard.press('Enter')
    await shows(page, 'is frozen')
    // The next step has the focus.
    await until(() => document.activeElement?.textContent?.trim() === 'Run audit')
    await page.keyboard.press('Enter')
    await shows(page, 'No device is contacted')
    await tabTo((element) => element.textContent?.trim() === 'Run audit')
    await page.keyboard.press('Enter')
    await shows(page, 'View verdicts')
    await until(() => document.activeElement?.textContent?.trim() === 'View verdicts')
    await page.keyboard.press('Enter')
    await page.waitForSelector('[role="grid"]')
    await tabTo((element) => element.classList.contains('cell'))
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('ArrowRight')
    const opened = await page.evaluate(() => document.activeElement?.getAttribute('title') ?? '')
    expect(opened).to.match(/: /)
    await page.keyboard.press('Enter')
    await shows(page, 'Decision')
    await page.waitForSelector('aside.exhibit .line')
    await page.keyboard.press('l')
    await until(() => document.querySelector('aside.exhibit') === null)
    await page.keyboard.press('l')
    await page.waitForSelector('aside.exhibit')
    const before = page.url()
    await page.keyboard.press('n')
    await page.waitForFunction((url) => location.href !== url, { timeout: PATIENCE }, before)
    await page.keyboard.press('F1')
    await shows(page, 'Keyboard shortcuts')
    await page.keyboard.press('Escape')
    await page.keyboard.press('[')
    await until(() => /[?&]b=\d+/.test(location.search))
    await jump('reports')
    await shows(page, 'Failures by topic')
    await tabTo((element) => element.textContent?.trim() === 'JSON')
    expect(await page.evaluate(() => (document.activeElement as HTMLAnchorElement).href)).to.match(/report\.json$/)
  })

  it('the cursor stays where a person has put it while the page comes up', async () => {
    await page.evaluateOnNewDocument(() => {
      const observer = new MutationObserver(() => {
        const field = document.querySelector<HTMLElement>('input[type="password"]')
        if (!field) return
        observer.disconnect()
        field.focus()
      })
      observer.observe(document, { childList: true, subtree: true })
    })
    await page.goto(`${server.address}/sign-in`)
    await until(() => document.activeElement?.getAttribute('type') === 'password')
    await new Promise((resolve) => setTimeout(resolve, 600))
    expect(await page.evaluate(() => document.activeElement?.getAttribute('type'))).to.equal('password')
  })

  it('Escape closes the list of keys however soon it is pressed', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    await page.evaluate(() => {
      const [opens, closes] = ['F1', 'Escape'].map(
        (key) => new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }),
      ) as [KeyboardEvent, KeyboardEvent]
      const observer = new MutationObserver(() => {
        if (!document.body.textContent?.includes('Keyboard shortcuts')) return
        observer.disconnect()
        document.body.dataset['opened'] = 'yes'
        document.body.dispatchEvent(closes)
      })
      observer.observe(document.body, { childList: true, subtree: true })
      document.body.dispatchEvent(opens)
    })
    // It has been open: that it is not there is no accident.
    await until(() => document.body.dataset['opened'] === 'yes')
    await until(() => !document.body.innerText.includes('Keyboard shortcuts'))
    await new Promise((resolve) => setTimeout(resolve, 600))
    expect(await page.$eval('body', (body) => body.innerText)).to.not.contain('Keyboard shortcuts')
  })

  it('keys without a modifier can be switched off', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    // While they are on, the key is heard.
    await open('/e/1/estate/1')
    await page.waitForSelector('aside.exhibit')
    await page.keyboard.press('l')
    await until(() => document.querySelector('aside.exhibit') === null)
    await page.keyboard.press('l')
    await page.waitForSelector('aside.exhibit')
    await open('/e/1/settings')
    await press(page, 'Single-key shortcuts (L, N, P, G, V)', 'label')
    await open('/e/1/estate/1')
    await page.waitForSelector('aside.exhibit')
    await page.keyboard.press('l')
    await new Promise((resolve) => setTimeout(resolve, 300))
    expect(await page.$('aside.exhibit')).to.not.equal(null)
  })

  it('waives a violation beside an outcome that stays, answers a question, and tries, saves and publishes a rule', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    const id = await page.evaluate(
      async () =>
        (
          (await (
            await fetch('/api/engagements/1/audits/2/verdicts?rule=vty-ssh-only&outcome=fail&device=qs-dist1')
          ).json()) as { verdicts: { id: number }[] }
        ).verdicts[0]?.id,
    )
    await open(`/e/1/verdicts/2/${id ?? 0}`)
    await press(page, 'Waive…')
    await shows(page, 'Applies to')
    await type(page, 'Reason', 'Replaced in spring.')
    await press(page, 'Waive')
    await shows(page, 'qs-dist1: waived')
    await press(page, 'Close')
    await shows(page, 'fail, waived')
    await open('/e/1/verdicts?view=waivers')
    await shows(page, 'Replaced in spring.')
    await press(page, 'Withdraw')
    await press(page, 'Withdraw waiver')
    await shows(page, 'withdrawn')

    await open('/e/1/benchmarks/people-and-process')
    await press(page, 'Answer')
    await type(page, 'Finding', 'The changes of the third quarter.')
    await press(page, 'Save answer')
    await shows(page, 'The changes of the third quarter. Isolde Wren')

    await open('/e/1/rule-bench')
    await shows(page, '2 examples pass.')
    const devices = await page.evaluate(
      async () => ((await (await fetch('/api/engagements/1/devices')).json()) as { devices: unknown[] }).devices.length,
    )
    await shows(page, `${devices} devices in`)
    const judged = await page.$$eval('.answers .data-table tbody tr.row', (rows) => rows.length)
    expect(judged).to.equal(devices)
    await press(page, 'Versions')
    await type(page, 'Reason for the change', 'The first rule of our own')
    await press(page, 'Save version')
    await shows(page, 'Saved as version 1 of own-rules.')
    await press(page, 'Publish')
    await shows(page, 'Published version 1 of own-rules.')
    await open('/e/1/benchmarks')
    await shows(page, 'Rules of our own')
  })

  it('makes a rule of cited lines, which words, form and YAML show and change as one', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/rule-bench')
    await shows(page, 'examples pass')
    await press(page, 'Cite lines')
    await type(page, 'Filter lines', 'exec-timeout')
    await page.waitForFunction(() =>
      [...document.querySelectorAll('.lines .line')].every((line) => line.textContent.includes('exec-timeout')),
    )
    await page.focus('.lines')
    await page.keyboard.press('End')
    await page.keyboard.press('Space')
    await shows(page, 'Pass if there is ‹exec-timeout')
    const words = await page.$$eval('.chip', (chips) => chips.map((chip) => chip.textContent))
    expect(words.slice(0, 2), 'the block around the line').to.deep.equal(['line', 'vty'])
    await page.evaluate(() => [...document.querySelectorAll<HTMLElement>('.chip')].at(-2)?.click())
    await type(page, 'Name', 'idle_minutes')
    await press(page, `The benchmark’s value idle_minutes, by default ${words.at(-2)}`)
    await shows(page, 'where idle_minutes_there == idle_minutes')
    await type(page, 'Rule title', 'Idle sessions end')
    await press(page, 'Add rule')
    await shows(page, 'Idle sessions end')
    await shows(page, '4 examples pass.')
    expect(await page.$eval('[aria-label="Rule"]', (section) => section.textContent)).to.contain('each block ‹line vty')

    await press(page, 'Form')
    await type(page, 'Title', 'Idle sessions end soon')
    await page.keyboard.press('Tab')
    await press(page, 'YAML')
    await shows(page, 'title: Idle sessions end soon')
    await page.click('.cm-content')
    // What can stand there is offered; what is wrong is marked at its line.
    await page.keyboard.down('Control')
    await page.keyboard.press('End')
    await page.keyboard.up('Control')
    await page.keyboard.type('sta')
    await page.waitForSelector('.cm-tooltip-autocomplete')
    await page.keyboard.press('Escape')
    await page.waitForSelector('.cm-lint-marker-error')
    for (let i = 0; i < 3; i++) await page.keyboard.press('Backspace')
    await page.waitForFunction(() => document.querySelector('.cm-lint-marker-error') === null)
    await press(page, 'Words')
    await shows(page, 'Idle sessions end soon')
    await press(page, 'Versions')
    await type(page, 'Reason for the change', 'Idle sessions')
    await press(page, 'Save version')
    await shows(page, 'No differences.')
    await press(page, 'Form')
    await type(page, 'Title', 'Idle sessions end at once')
    await page.keyboard.press('Tab')
    await shows(page, 'rule idle-sessions-end, changed')
  })

  it('shows what has to be changed, what is new since the audit before, and the trend', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    const asked = async <T>(path: string): Promise<T> =>
      page.evaluate(async (at) => (await (await fetch(at)).json()) as unknown, path) as Promise<T>
    await open('/e/1/verdicts?view=remediation&who=site%3Dqs')
    await shows(page, 'Commands')
    expect(await page.$$eval('.remediation thead a', (links) => links.map((link) => link.textContent))).to.deep.equal([
      'qs-acc1',
      'qs-dist1',
      'qs-fw1',
    ])
    await page.evaluate(() => document.querySelector<HTMLElement>('.remediation input[type=checkbox]')?.click())
    await shows(page, 'Done by Isolde Wren')
    await shows(page, '1 of ')
    const { audits } = await asked<{ audits: { id: number; snapshotId: number }[] }>('/api/engagements/1/chronicle')
    const { snapshots } = await asked<{ snapshots: { id: number; title: string }[] }>('/api/engagements/1/chronicle')
    const audit = audits.findLast(({ snapshotId }) => snapshotId === snapshots.at(-1)?.id)?.id ?? 0
    const log = await page.evaluate(
      async (id) => (await fetch(`/api/engagements/1/audits/${id}/remediation.md`)).text(),
      audit,
    )
    expect(log.match(/^- \[x\]/gm)).to.have.length(1)

    const grid = await asked<{ cells: { since: string | null }[] }>(`/api/engagements/1/audits/${audit}/grid`)
    expect(grid.cells.filter(({ since }) => since === 'open').length).to.be.greaterThan(0)
    for (const kind of ['new', 'open', 'resolved']) {
      await open(`/e/1/verdicts?view=list&since=${kind}`)
      await shows(page, `${grid.cells.filter(({ since }) => since === kind).length} verdicts`)
    }

    await open('/e/1/verdicts?group=pci-dss-4.0.1&columns=site')
    await shows(page, '1.2.1 Ruleset standards')
    expect(await page.$$eval('.band', (bands) => bands.map((band) => band.textContent))).to.include.members([
      'dd',
      'ops',
      'qn',
      'qs',
    ])
    await open('/e/1/reports')
    await shows(page, 'Formula')
    await page.waitForSelector('canvas[aria-label^="Score by snapshot"]')
    await open('/e/1/benchmarks')
    await shows(page, 'Rulesets reviewed every six months')

    const { devices } = await asked<{ devices: { id: number; name: string }[] }>('/api/engagements/1/devices')
    await open(`/e/1/estate/${devices.find(({ name }) => name === 'qs-dist1')?.id ?? 0}?tab=history`)
    await shows(page, 'lines differ')
    expect(await page.$$eval('.sheets .come', (lines) => lines.map((line) => line.textContent))).to.include(
      '+ip http server',
    )
  })

  it('collects from devices over SSH: one fails at its step, the others are frozen', async () => {
    const network = await simulate(join(ROOT, 'scenario/2026-11-16'), { weather: { 'ops-acc1': { locked: true } } })
    try {
      await connectDemo(server.services, network)
      await signIn(page, server.address, 'lead', PASSWORD)
      await open('/e/1/snapshots')
      await press(page, 'Collect from devices')
      await press(page, `Collect from all ${network.devices.length}`)
      await press(page, 'stopped: login')
      await shows(page, 'the credential was refused')
      expect(await page.$$eval('.ladder .done', (steps) => steps.length)).to.equal(5)
      expect(await page.$eval('.ladder .stopped', (step) => step.textContent)).to.contain('login')
      await open('/e/1/snapshots')
      await shows(page, 'not collected (login)')
      expect(await page.$eval('body', (body) => body.innerText)).to.not.contain('heron-at-low-tide')
    } finally {
      await network.stop()
    }
  })

  it('a reader sees the verdicts and no way to change anything', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    for (const path of [
      '/e/1/overview',
      '/e/1/search?q=10.40.30.1',
      '/e/1/estate/map',
      '/e/1/estate/map?as=links',
      '/e/1/estate/tables',
      '/e/1/estate/groups',
      '/e/1/estate/labels',
      '/e/1/estate/versions',
      '/e/1/traffic',
      '/e/1/traffic/ask?from=outside&to=10.40.60.0/24&only=udp',
      '/e/1/traffic/ask?at=ops-core1:Vlan10&src=10.40.10.9&dst=10.40.60.9&proto=tcp&dport=443',
      '/e/1/traffic/filters',
      '/e/1/traffic/ask?to=10.40.60.0/24',
      '/e/1/traffic/changes',
      '/e/1/traffic/functions',
      '/e/1/traffic/network',
      '/e/1/snapshots/discover',
      '/e/1/estate',
      '/e/1/snapshots',
      '/e/1/verdicts',
      '/e/1/reports',
      '/e/1/benchmarks/network-hardening?tab=values',
      '/e/1/benchmarks/people-and-process',
      '/e/1/verdicts?view=waivers',
    ]) {
      await open(path)
      await page.waitForSelector('h1')
      await settled()
      const words = await page.$eval('main', (main) => main.innerText)
      for (const forbidden of [
        'Import configurations',
        'Run audit',
        'Commands with real secrets',
        'Keep\n',
        'Answer\n',
        'Waive…',
        'Withdraw',
        'Write rules',
        'Define label',
        'Add group',
        'Approve version',
        'Save as group',
        'Discover devices',
        'Set label',
      ])
        expect(words, `${path}: ${forbidden}`).to.not.contain(forbidden)
    }
  })

  it('fits 1280×800 without scrolling sideways, and 200 % zoom (640 px) too', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    for (const width of [1280, 640]) {
      await page.setViewport({ width, height: width === 1280 ? 800 : 400 })
      for (const path of [
        '/e/1/overview',
        '/e/1/search?q=10.40.30.1',
        '/e/1/estate/map',
        '/e/1/estate/map?as=links',
        '/e/1/estate/tables',
        '/e/1/estate/groups',
        '/e/1/estate/labels',
        '/e/1/estate/versions',
        '/e/1/traffic',
        '/e/1/traffic/ask?from=outside&to=10.40.60.0/24&only=udp',
        '/e/1/traffic/ask?at=ops-core1:Vlan10&src=10.40.10.9&dst=10.40.60.9&proto=tcp&dport=443',
        '/e/1/traffic/filters',
        '/e/1/traffic/ask?to=10.40.60.0/24',
        '/e/1/traffic/changes',
        '/e/1/traffic/functions',
        '/e/1/traffic/network',
        '/e/1/snapshots/discover',
        '/e/1/estate',
        '/e/1/snapshots',
        '/e/1/verdicts',
        '/e/1/reports',
        '/e/1/settings',
        '/e/1/rule-bench',
        '/e/1/rule-bench?view=form&beside=lines',
        '/e/1/rule-bench?view=yaml&beside=versions',
        '/e/1/verdicts?view=remediation',
        '/e/1/snapshots/collect',
        '/e/1/set-up',
        '/e/1/benchmarks',
        '/e/1/benchmarks/people-and-process',
        '/e/1/benchmarks/network-hardening?tab=coverage',
        '/e/1/benchmarks/network-hardening?tab=values',
      ]) {
        await open(path)
        await page.waitForSelector('h1')
        await settled()
        const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth)
        expect(over, `${path} at ${width}`).to.be.at.most(0)
      }
    }
  })

  it('shows what a configuration says by parts, every value with its lines, in any dialect', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    const ids = await page.evaluate(
      async () =>
        (
          (await (await fetch('/api/engagements/1/devices')).json()) as {
            devices: { id: number; name: string; dialect: string }[]
          }
        ).devices,
    )
    for (const [name, dialect, tab, value, line] of [
      ['ops-fw1', 'braced', 'system', 'ops-fw1', '    host-name ops-fw1;'],
      ['qs-fw1', 'setlines', 'users', 'quaydesk', 'set system login user quaydesk full-name "Quay desk"'],
      ['qs-dist1', 'indented', 'interfaces', 'ops-core1', ' description ops-core1'],
    ] as const) {
      const device = ids.find((one) => one.name === name)
      expect(device?.dialect).to.equal(dialect)
      await open(`/e/1/estate/${device?.id ?? 0}?tab=${tab}`)
      await shows(page, 'Unparsed (')
      await page.waitForSelector('aside.exhibit .line')
      await press(page, value, 'button.said')
      const marked = await page.waitForFunction(
        () =>
          [...document.querySelectorAll<HTMLElement>('.line.marked, .line.current')]
            .map((one) => one.querySelector('.text')?.textContent ?? '')
            .find((text) => text !== '') ?? null,
      )
      expect(await marked.jsonValue()).to.equal(line)
      expect(await page.$eval('.line.current', (one) => one.getAttribute('title'))).to.include(value)
    }
  })

  it('reads a device in another dialect when told to, and back, without touching its record', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    const ids = await page.evaluate(
      async () =>
        ((await (await fetch('/api/engagements/1/devices')).json()) as { devices: { id: number; name: string }[] })
          .devices,
    )
    await open(`/e/1/estate/${ids.find(({ name }) => name === 'qs-fw1')?.id ?? 0}?tab=system`)
    await shows(page, '100 % matched')
    // The panel is empty for the moment in which it reads the record again.
    const shownHash = async (): Promise<unknown> =>
      (
        await page.waitForFunction(
          () => /Fingerprint (\w+)/.exec(document.querySelector('aside.exhibit')?.textContent ?? '')?.[1],
        )
      ).jsonValue()
    const hash = await shownHash()
    for (const [from, to, words] of [
      ['Set lines', 'Indented, one command a line', 'set by a person'],
      ['Indented', 'Set lines, one path a line', '100 % matched'],
    ] as const) {
      await press(page, from, 'button')
      await press(page, to, '.v-list-item-title')
      await shows(page, words)
      expect(await shownHash()).to.equal(hash)
    }
  })

  it('begins an action that the search field offers, once', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await page.keyboard.down('Control')
    await page.keyboard.press('k')
    await page.keyboard.up('Control')
    await page.keyboard.type('add alert')
    await until(() => document.querySelector('#hit-0')?.textContent?.includes('Add alert') === true)
    await page.keyboard.press('Enter')
    await shows(page, 'Title of the alert')
    await until(() => !location.search.includes('do='))
  })

  it('shows the description of the API to people', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    await open('/api/docs')
    await shows(page, 'Jury Box')
    await page.waitForFunction(() => document.querySelectorAll('.opblock-tag-section').length > 5)
  })

  const PAGES = [
    '/e/1/overview',
    '/e/1/search?q=10.40.30.1',
    '/e/1/estate/map',
    '/e/1/estate/map?as=links',
    '/e/1/estate/tables',
    '/e/1/estate/groups',
    '/e/1/estate/labels',
    '/e/1/estate/versions',
    '/e/1/traffic',
    '/e/1/traffic/ask?from=outside&to=10.40.60.0/24&only=udp',
    '/e/1/traffic/ask?at=ops-core1:Vlan10&src=10.40.10.9&dst=10.40.60.9&proto=tcp&dport=443',
    '/e/1/traffic/filters',
    '/e/1/traffic/ask?to=10.40.60.0/24',
    '/e/1/traffic/changes',
    '/e/1/traffic/functions',
    '/e/1/traffic/network',
    '/e/1/changes',
    '/e/1/changes/device?device=qs-dist1',
    '/e/1/changes/checks',
    '/e/1/changes/windows',
    '/e/1/reports/evidence',
    '/e/1/changes/references',
    '/e/1/changes/drift',
    '/e/1/chronicle',
    '/e/1/chronicle/trends',
    '/e/1/verdicts/docket',
    '/e/1/snapshots/discover',
    '/e/1/estate',
    '/e/1/estate/1',
    ...['system', 'interfaces', 'users', 'lists', 'routes', 'security', 'unread', 'records', 'history'].map(
      (tab) => `/e/1/estate/1?tab=${tab}`,
    ),
    '/e/1/snapshots',
    '/e/1/benchmarks',
    '/e/1/benchmarks/network-hardening?rule=vty-access-class',
    '/e/1/benchmarks/network-hardening?tab=values',
    '/e/1/benchmarks/network-hardening?tab=coverage',
    '/e/1/verdicts',
    '/e/1/verdicts?view=list',
    '/e/1/verdicts?view=waivers',
    '/e/1/verdicts?view=remediation',
    '/e/1/verdicts?group=pci-dss-4.0.1&columns=site',
    '/e/1/verdicts/1/8',
    '/e/1/benchmarks/people-and-process',
    '/e/1/snapshots/collect',
    '/e/1/set-up',
    '/e/1/rule-bench',
    '/e/1/rule-bench?view=form&beside=lines',
    '/e/1/rule-bench?view=yaml&beside=versions',
    '/e/1/reports',
    '/e/1/settings',
    '/e/1/installation',
    '/e/1/glossary',
    '/e/1/guide/audit',
    '/',
  ]
  it('axe finds nothing serious on any page, light or dark', async () => {
    const found: string[] = []
    const check = async (path: string): Promise<void> => {
      await page.evaluate(axe.source)
      for (const theme of ['light', 'dark']) {
        await page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: theme }])
        await page.waitForSelector(`.v-application.v-theme--${theme}`)
        const violations = await page.evaluate(async () => {
          const result = await (window as any).axe.run(document, {
            runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'],
            iframes: false,
          })
          return result.violations
            .filter((one: any) => one.impact === 'serious' || one.impact === 'critical')
            .map(
              (one: any) =>
                `${one.id}: ${one.nodes
                  .slice(0, 3)
                  .map((node: any) => `${node.html.slice(0, 120)} ${node.failureSummary}`)
                  .join(' | ')}`,
            )
        })
        found.push(...violations.map((words: string) => `${path} (${theme}) ${words}`))
      }
    }
    await open('/sign-in')
    await page.waitForSelector('form')
    await check('/sign-in')
    await signIn(page, server.address, 'lead', PASSWORD)
    for (const path of PAGES) {
      await open(path)
      await page.waitForSelector('h1')
      await settled()
      await check(path)
    }
    expect(found.join('\n')).to.equal('')
  })
})
