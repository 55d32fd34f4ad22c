import { expect } from 'chai'
import type { ElementHandle } from 'puppeteer-core'
import { press, shows, signIn, type } from './browser.ts'
import { PASSWORD, useStage, type Stage } from './stage.ts'

describe('daily work, in the browser', function () {
  this.timeout(600_000)
  let server: Stage['server']
  let page: Stage['page']
  let open: Stage['open']
  let until: Stage['until']
  useStage((stage) => ({ server, page, open, until } = stage))
  const asked = <T>(path: string): Promise<T> =>
    page.evaluate(async (at) => (await (await fetch(`/api/engagements/1/${at}`)).json()) as T, path)
  /** Chooses an entry of a list that drops down. */
  const choose = async (label: string, entry: string): Promise<void> => {
    const field = await page.waitForFunction(
      (wanted) =>
        [...document.querySelectorAll<HTMLElement>('label')]
          .find((element) => element.textContent?.trim() === wanted && element.offsetParent !== null)
          ?.closest<HTMLElement>('.v-field'),
      {},
      label,
    )
    const element = field.asElement() as ElementHandle<HTMLElement> | null
    await element?.click()
    // The list may still be finding its place: the entry itself is clicked, wherever it is.
    const item = await page.waitForFunction(
      (wanted) =>
        [...document.querySelectorAll<HTMLElement>('.v-overlay--active .v-list-item')].find(
          (one) => one.innerText.trim() === wanted,
        ),
      {},
      entry,
    )
    const found = item.asElement() as ElementHandle<HTMLElement> | null
    await found?.evaluate((one) => one.click())
    await page.waitForFunction(
      (at, wanted) => at?.innerText.includes(wanted) === true || at?.querySelector('input')?.value === wanted,
      {},
      element,
      entry,
    )
  }

  it('assigns, marks and waives findings together, and finds mine and overdue', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/verdicts?view=list&outcome=fail')
    const boxes = 'tr.row td.pick input'
    await page.waitForSelector(boxes)
    await page.click(boxes)
    await shows(page, '1 selected of')
    await page.keyboard.down('Shift')
    await page.evaluate((selector) => {
      const third = document.querySelectorAll<HTMLElement>(selector)[2]
      third?.dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true, shiftKey: true }))
    }, boxes)
    await page.keyboard.up('Shift')
    await shows(page, '3 selected of')
    await press(page, 'Assign…')
    await shows(page, 'Assign 3 findings')
    await choose('Owner', 'Isolde Wren')
    await type(page, 'Due', '2026-01-31')
    await press(page, 'Save', '.v-dialog button')
    await shows(page, '3 findings saved.')
    await shows(page, '2026-01-31 overdue')

    await open('/e/1/verdicts?view=list&only=mine')
    await shows(page, '3 verdicts')
    await open('/e/1/verdicts?view=list&only=overdue')
    await shows(page, '3 verdicts')
    await page.click(boxes)
    await shows(page, '1 selected of')
    await press(page, 'Mark done')
    await shows(page, '1 finding marked as done.')
    await shows(page, '2 verdicts')

    await page.click('th.pick input')
    await shows(page, '2 selected of')
    await press(page, 'Waive…')
    await shows(page, 'Waive 2 findings')
    await type(page, 'Reason', 'Replaced in spring.')
    await press(page, 'Waive', '.v-dialog button')
    await until(() => document.querySelector('.v-dialog [role="status"]')?.textContent?.includes('waived') === true)
    expect(
      (await asked<{ reason: string }[]>('waivers')).filter(({ reason }) => reason === 'Replaced in spring.'),
    ).to.have.length(2)
  })

  it('makes a group by a form, with who is in and out while it is written', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/estate/groups')
    await press(page, 'Add group')
    await type(page, 'Title', 'Access by form')
    await press(page, 'Add condition')
    await choose('Attribute', 'Role')
    await choose('Value', 'access')
    await until(() =>
      [...document.querySelectorAll('textarea')].some(({ value }) => value === 'device.role == "access"'),
    )
    const { devices } = await asked<{ devices: { name: string; facts: { role?: string } }[] }>('devices')
    const access = devices.filter(({ facts }) => facts.role === 'access').map(({ name }) => name)
    expect(access.length).to.be.above(0)
    await shows(page, `${access.length} of ${devices.length} devices match`)
    await press(page, 'Save', 'form button')
    await until(() => !document.querySelector('form textarea'))
    const groups = await asked<{ title: string; text: string; inside: string[] }[]>('groups')
    expect(groups.find(({ title }) => title === 'Access by form')).to.deep.include({ text: 'device.role == "access"' })
  })

  it('saves an answer as an expectation, and changes it by the form', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/traffic/ask?from=10.40.40.0/24&to=10.40.60.0/24')
    await press(page, 'Save as expectation')
    await type(page, 'Title', 'Kiosks and cards are apart')
    await until(() =>
      [...document.querySelectorAll('input')].some(({ value }) => value === 'kiosks-and-cards-are-apart'),
    )
    await press(page, 'Save and check')
    await page.waitForSelector('article.detail')
    await until(() => document.querySelector('article.detail h2')?.textContent === 'Kiosks and cards are apart')
    await press(page, 'Edit')
    await choose('Severity', 'high')
    await press(page, 'Save and check')
    await until(() => document.querySelector('article.detail h2')?.textContent === 'Kiosks and cards are apart')
    const { text } = await asked<{ text: string }>('traffic')
    expect(text).to.contain('id: kiosks-and-cards-are-apart').and.contain('severity: high')
    // The other expectations stay as they were written.
    expect(text).to.contain('expectations:')
    await press(page, 'Delete')
    await press(page, 'Delete expectation', '.v-dialog button')
    await until(() => document.querySelector('article.detail h2')?.textContent !== 'Kiosks and cards are apart')
  })

  it('copies a shipped rule into the own benchmark', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/benchmarks/network-hardening?rule=vty-ssh-only')
    await press(page, 'Copy to own rules')
    await shows(page, 'into your own rules')
    await until(() => [...document.querySelectorAll('input')].some(({ value }) => value === 'vty-ssh-only'))
    await shows(page, 'examples pass')
    await page.evaluate(() => localStorage.clear())
  })

  it('audits for a framework, and the report lists its requirements', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/verdicts')
    await press(page, 'Run audit')
    await shows(page, 'No device is contacted')
    const [pci] = (await asked<{ id: string; title: string; rules: number; questions: number }[]>('frameworks')).filter(
      ({ id }) => id.startsWith('pci-dss'),
    )
    await choose('Audit for', `${pci?.title}: ${pci?.rules} rules, ${pci?.questions} questions`)
    await shows(page, 'The report lists each requirement')
    await press(page, 'Run audit', '.v-dialog button')
    await press(page, 'View verdicts')
    await shows(page, `For ${pci?.title}.`)
    await open('/e/1/reports')
    const { audits } = await asked<{ audits: { id: number; framework: string | null }[] }>('chronicle')
    const audit = audits.findLast(({ framework }) => framework === pci?.id)
    const html = await page.evaluate(
      async (id) => (await fetch(`/api/engagements/1/audits/${id}/report.html`)).text(),
      audit?.id ?? 0,
    )
    expect(html).to.contain('id="assessment"').and.contain('Not in place')
  })
})
