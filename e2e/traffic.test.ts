import { expect } from 'chai'
import { press, shows, signIn, type } from './browser.ts'
import { PASSWORD, useStage, type Stage } from './stage.ts'

describe('traffic in the browser', function () {
  this.timeout(600_000)
  let server: Stage['server']
  let page: Stage['page']
  let open: Stage['open']
  let until: Stage['until']
  useStage((stage) => ({ server, page, open, until } = stage))
  const marked = async (): Promise<string[]> =>
    page.$$eval('aside.exhibit .line.marked, aside.exhibit .line.current', (lines) =>
      lines.map((line) => line.querySelector('.text')?.textContent ?? ''),
    )

  it('goes from an expectation that is broken to the line that lets packets through, and on to asking and tracing', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/traffic')
    await shows(page, 'Whatever reaches the card systems passes the firewall')
    const counts = await page.$$eval('[data-count]', (elements) =>
      Object.fromEntries(
        elements.map((element) => [(element as HTMLElement).dataset['count'] ?? '', Number(element.textContent)]),
      ),
    )
    expect(counts['violated']).to.be.above(1)
    expect(counts['met']).to.be.above(1)
    expect((counts['violated'] ?? 0) + (counts['undecided'] ?? 0) + (counts['met'] ?? 0)).to.equal(
      await page.$$eval('button.one', (all) => all.length),
    )
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLElement>('button.one')]
        .find((one) => one.innerText.includes('passes the firewall'))
        ?.click(),
    )
    await until(
      () =>
        document.querySelector('article h2')?.textContent === 'Whatever reaches the card systems passes the firewall',
    )
    await shows(page, 'some arrive without passing ops-fw1')
    await page.evaluate(() => document.querySelector<HTMLElement>('article button.as-link')?.click())
    await until(() => document.querySelectorAll('aside.exhibit .line.marked, aside.exhibit .line.current').length > 0)
    expect((await marked()).join('\n')).to.match(/10\.40\.60\.0\/24 is directly connected, Vlan60/)

    await press(page, 'Show all fates')
    await until(() => document.querySelectorAll('section[aria-label="Fates"] tbody tr').length > 0)
    expect(await page.$eval('section[aria-label="Fates"]', (section) => section.textContent))
      .to.contain('arrives')
      .and.contain('src net 10.40.10.0/24')
    await page.evaluate(() => document.querySelector<HTMLElement>('section[aria-label="Fates"] tbody a')?.click())
    await until(() => document.querySelector('section[aria-label="Trace"] .strip') !== null)
    expect(await page.$eval('section[aria-label="Trace"]', (section) => section.textContent))
      .to.contain('ops-core1')
      .and.contain('lookup')
  })

  it('the map tells the paths by their fates, and where they are protected', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    await open('/e/1/traffic?expectation=petrel-protected')
    await until(() => document.querySelectorAll('.paths > svg .way').length > 1)
    const drawn = await page.$$eval('.paths > svg title', (titles) => titles.map((title) => title.textContent ?? ''))
    expect(drawn.join('\n'))
      .to.match(/ves-petrel Tunnel40 to ops-edge1 Tunnel40, arrives: IPsec/)
      .and.match(/ops-edge1 .* to ops-core1 .*, arrives: unprotected/)
    expect(
      await page.$$eval('.paths > svg .layer', (labels) => labels.map((label) => label.textContent)),
    ).to.deep.equal(['IPsec'])
    // What is in the clear is dashed, what is protected lies in a sheath.
    expect(
      await page.evaluate(() =>
        [...document.querySelectorAll('.paths > svg > g')]
          .filter((one) => one.querySelector('title'))
          .every((one) => (one.querySelector('.clear') !== null) === (one.querySelector('.sheath') === null)),
      ),
    ).to.equal(true)
    await press(page, 'Enlarge')
    await until(() => (document.querySelector('.v-dialog .drawn')?.getBoundingClientRect().width ?? 0) > 900)
    await page.keyboard.press('Escape')
    await until(() =>
      [...document.querySelectorAll('.v-dialog .drawn')].every((one) => one.getBoundingClientRect().width === 0),
    )
    await page.evaluate(() => document.querySelector<HTMLElement>('.paths .table summary')?.click())
    await shows(page, 'IPsec by')
    await page.evaluate(() => document.querySelector<HTMLElement>('.paths figcaption input')?.click())
    await until(() =>
      [...document.querySelectorAll('.paths > svg .device')].some(
        (one) => one.textContent?.includes('qs-fw1') ?? false,
      ),
    )
  })

  it('expectations stand among the verdicts, by the framework that they are evidence for', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    await open('/e/1/verdicts?group=pci-dss-4.0.1')
    const rows = async (): Promise<string[]> =>
      page.$$eval('section[aria-label="Expectations of traffic"] tbody tr', (all) =>
        all.map((row) => row.textContent ?? ''),
      )
    // The titles of frameworks come with the grid, which may be read after the expectations.
    await until(() =>
      (document.querySelector('section[aria-label="Expectations of traffic"]')?.textContent ?? '').includes('PCI DSS'),
    )
    expect((await rows())[0]).to.match(/fail.*Nobody outside reaches the card systems.*PCI DSS 4\.0\.1 1\.3\.1/s)
    expect((await rows()).join()).to.not.contain('Offices reach the web')
    await press(page, 'Nobody outside reaches the card systems')
    await until(() => document.querySelector('article h2')?.textContent === 'Nobody outside reaches the card systems')
  })

  it('an expectation is waived from its page: it stays broken, and says by whom it is borne', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/traffic?expectation=cards-from-outside')
    await press(page, 'Waive…')
    await type(page, 'Reason', 'The tunnel ends behind the firewall from December on')
    await press(page, 'Waive')
    await shows(page, 'cards-from-outside: waived')
    await press(page, 'Close')
    await shows(page, 'The tunnel ends behind the firewall from December on')
    expect(await page.$eval('article.detail', (detail) => (detail as HTMLElement).innerText))
      .to.contain('violated')
      .and.contain('Waived until')
      .and.not.contain('Waive…')
    await open('/e/1/verdicts?view=waivers')
    await press(page, 'Withdraw')
    await press(page, 'Withdraw waiver')
    await shows(page, 'withdrawn')
  })

  it('asks who reaches a place, and goes on to one of them', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    await open('/e/1/traffic/ask?to=10.40.60.0/24&only=tcp')
    await shows(page, 'places can open a connection to 10.40.60.0/24')
    expect(await page.$eval('section[aria-label="Places"]', (section) => section.textContent))
      .to.contain('10.40.10.0/24')
      .and.not.contain('10.40.40.0/24')
    await press(page, '10.40.10.0/24')
    await until(() => document.querySelectorAll('section[aria-label="Fates"] tbody tr').length > 0)
    expect(page.url()).to.contain('from=10.40.10.0').and.contain('to=10.40.60.0')
  })

  it('explains why logs never arrive although their settings are right: the line of the filter on the way', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    await open('/e/1/traffic/functions')
    await shows(page, 'pass')
    await press(page, 'Syslog')
    const broken = await page.$$eval('.function', (all) =>
      all.filter((one) => one.querySelector('.chain .fail')).map((one) => one.querySelector('b')?.textContent),
    )
    expect([...new Set(broken)]).to.deep.equal(['ops-fw2', 'qn-acc1', 'qn-acc2', 'ves-gannet'])
    await page.evaluate(() => document.querySelector<HTMLElement>('.function summary')?.click())
    await page.evaluate(() =>
      [...document.querySelectorAll('.function[open] .data-table tr')]
        .find((row) => row.textContent?.startsWith('forward path'))
        ?.querySelector<HTMLElement>('button.as-link')
        ?.click(),
    )
    await until(() => document.querySelectorAll('aside.exhibit .line.marked, aside.exhibit .line.current').length > 0)
    expect((await marked()).join()).to.contain('deny udp any 10.40.0.20 0.0.0.3 eq syslog log')
  })

  it('shows what does not fit together, which flows changed, and how two lists differ', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    await open('/e/1/traffic/network')
    await shows(page, '10.40.110.1 is the address of ops-core2 Vlan70 and of qn-dist1 Vlan10')
    await press(page, 'duplicate address 1')
    await until(() => document.querySelectorAll('article.finding').length === 1)

    await open('/e/1/traffic/changes')
    await until(() => document.querySelectorAll('article.change').length > 0)
    expect(await page.$eval('article.change', (article) => article.textContent)).to.match(
      /From.*to.*At .*, before.*After/s,
    )

    await open('/e/1/traffic/filters')
    await until(() => document.querySelectorAll('form[aria-label="Compare two access lists"] option').length > 4)
    const lists = await page.$$eval(
      'form[aria-label="Compare two access lists"] select:first-of-type option',
      (options) => options.map((option) => (option as HTMLOptionElement).value),
    )
    const [one, other] = [
      lists.find((name) => name.startsWith('ops-core1|TICKETING-IN')),
      lists.find((name) => name.startsWith('ops-core1|SERVERS-OUT')),
    ]
    const [first, second] = await page.$$('form[aria-label="Compare two access lists"] select')
    await first?.select(one ?? '')
    await second?.select(other ?? '')
    await press(page, 'Compare')
    await shows(page, 'Permitted only by the second')
  })

  it('a question is asked by keyboard, and what is wrong with it is said', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/traffic/ask')
    await shows(page, 'All packets')
    await until(() => document.querySelectorAll('#places option').length > 10)
    const fill = async (label: string, text: string): Promise<void> => {
      await page.evaluate(
        (wanted) =>
          [...document.querySelectorAll('label')]
            .find((one) => one.textContent?.trim().startsWith(wanted))
            ?.querySelector('input')
            ?.focus(),
        label,
      )
      await page.keyboard.type(text)
    }
    await fill('From', 'outside')
    await fill('To', '10.40.60.0/24')
    await fill('Only', 'udp dst prot 500')
    await page.keyboard.press('Enter')
    await shows(page, 'expected')
    expect(await page.$eval('body', (body) => body.innerText)).to.contain('column 9')
    await page.keyboard.press('Home')
    await page.keyboard.down('Shift')
    await page.keyboard.press('End')
    await page.keyboard.up('Shift')
    await page.keyboard.type('udp dst port 500')
    await page.keyboard.press('Enter')
    await until(() =>
      [...document.querySelectorAll('section[aria-label="Fates"] .fate')].some((mark) =>
        mark.textContent?.includes('arrives'),
      ),
    )
    expect(page.url()).to.contain('only=udp')
  })

  it('what is expected is stated on the page, refused where it is wrong, and answered', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/traffic')
    await press(page, 'Edit as YAML')
    const state = async (text: string): Promise<void> => {
      await page.waitForSelector('form textarea')
      await page.evaluate(() => document.querySelector<HTMLTextAreaElement>('form textarea')?.select())
      await page.keyboard.type(text)
    }
    await state('expectations: [{ id: Wrong One, title: x, from: a, to: b, must: arrive }]')
    await press(page, 'Save and check')
    await shows(page, 'lower-case letters')
    await state(
      'expectations: [{ id: one, title: Offices reach Operations, from: 10.40.10.0/24, to: 10.40.20.0/24, must: arrive }]',
    )
    await press(page, 'Save and check')
    await shows(page, 'Offices reach Operations')
    await until(() => document.querySelectorAll('button.one').length === 1)
    // One that never held is meant when somebody says so.
    await press(page, 'Edit as YAML')
    await state(
      'expectations: [{ id: never, title: Kiosks reach the cards, from: 10.40.40.0/24, to: 10.40.60.0/24, must: arrive }]',
    )
    await press(page, 'Save and check')
    await shows(page, 'It may be a mistake')
    await press(page, 'Confirm expectation')
    await shows(page, 'confirmed: if it is violated, alerts are sent')
  })

  it('odd lines of filters open where they stand', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    await open('/e/1/traffic/filters')
    await until(() =>
      [...document.querySelectorAll<HTMLElement>('.kinds button')].some((one) => one.innerText.startsWith('shadowed')),
    )
    await page.evaluate(() =>
      [...document.querySelectorAll<HTMLElement>('.kinds button')]
        .find((one) => one.innerText.startsWith('shadowed'))
        ?.click(),
    )
    await page.evaluate(() => document.querySelector<HTMLElement>('tbody button.as-link')?.click())
    await until(() => document.querySelectorAll('aside.exhibit .line.marked, aside.exhibit .line.current').length > 1)
  })
})
