import { expect } from 'chai'
import { PATIENCE, press, shows, signIn, type } from './browser.ts'
import { PASSWORD, useStage, type Stage } from './stage.ts'

/** Partial snapshots, limited audits and mistakes: what is shown stays whole, and what was wrong goes away again. */
describe('parts of the estate, in the browser', function () {
  this.timeout(600_000)
  let server: Stage['server']
  let page: Stage['page']
  let open: Stage['open']
  useStage((stage) => ({ server, page, open } = stage))

  const asked = async <T>(path: string): Promise<T> =>
    page.evaluate(async (at) => (await (await fetch(`/api/engagements/1/${at}`)).json()) as unknown, path) as Promise<T>
  /** Chooses in a field of Vuetify. */
  const choose = async (label: string, option: string): Promise<void> => {
    const field = await page.waitForFunction(
      (wanted) =>
        [...document.querySelectorAll<HTMLElement>('.v-dialog .v-input, .main .v-input')].find((one) =>
          [...one.querySelectorAll('label')].some((name) => name.textContent === wanted),
        ),
      { timeout: PATIENCE },
      label,
    )
    await (field.asElement() as { click(): Promise<void> } | null)?.click()
    // The list glides into its place.
    await new Promise((resolve) => setTimeout(resolve, 600))
    await press(page, option, '.v-list-item')
  }

  it('judges a pasted device at once, and the verdicts of the others are still there', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/snapshots')
    await press(page, 'Paste')
    await page.waitForSelector('textarea')
    await page.type('textarea', 'hostname pier\nip http server\n')
    await press(page, 'Import')
    await shows(page, '19 of 19 other devices are carried over')
    await type(page, 'Snapshot title', 'One more')
    await press(page, 'Freeze snapshot')
    await shows(page, '“One more” is frozen with 20 devices')
    await open('/e/1/verdicts')
    await shows(page, 'verdicts reused')
    const { audits } = await asked<{ audits: { computed: number; remembered: number }[] }>('chronicle')
    expect(audits.at(-1)).to.include({ computed: 1, remembered: 19 })
  })

  it('finds rules in the grid by words and outcome, and comes back to the cell that was opened', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/verdicts?only=fail')
    await type(page, 'Filter rules', 'ssh version')
    await page.waitForFunction(() => location.search.includes('find='))
    expect(await page.$$eval('th.rule a', (links) => links.map((link) => link.textContent))).to.deep.equal([
      'SSH uses version 2 only',
    ])
    await page.click('a.cell[title^="qs-dist1"]')
    await shows(page, 'Decision')
    await page.goBack()
    await page.waitForFunction(
      () => document.querySelector('a.cell[tabindex="0"]')?.getAttribute('title')?.startsWith('qs-dist1') === true,
    )
    expect(page.url()).to.contain('cell=qs-dist1').and.contain('find=ssh')
  })

  it('sorts, filters and pages the list of all verdicts on the server', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/verdicts?view=list')
    const { total } = await asked<{ total: number }>(
      `audits/${(await asked<{ audits: { id: number }[] }>('chronicle')).audits.at(-1)?.id ?? 0}/verdicts?limit=1`,
    )
    expect(total).to.be.above(1000)
    await shows(page, `${new Intl.NumberFormat('en').format(total)} verdicts`)
    await shows(page, '1–200')
    await page.click('[aria-label="Next page"]')
    await shows(page, '201–400')
    await page.type('[aria-label="Filter Device"]', 'pier')
    await page.waitForFunction(() => {
      const cells = [...document.querySelectorAll<HTMLElement>('.sheet tr.row td:nth-child(4)')]
      return cells.length > 0 && cells.every((cell) => cell.innerText === 'pier')
    })
    await page.waitForFunction(() =>
      document.querySelector('a[download][href*="verdicts.csv"]')?.getAttribute('href')?.includes('f.device=pier'),
    )
  })

  it('limits an audit to a device, and says so', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/verdicts')
    await press(page, 'Run audit')
    await shows(page, 'No device is contacted')
    await choose('Devices', 'Selected devices')
    await shows(page, '0 of 20 devices')
    await page.waitForFunction(() => document.querySelectorAll('.run .v-autocomplete').length === 1)
    const fields = await page.$$('.run .v-autocomplete')
    await fields.at(-1)?.click()
    await new Promise((resolve) => setTimeout(resolve, 600))
    await press(page, 'pier', '.v-list-item')
    await shows(page, '1 of 20 devices: pier')
    await page.keyboard.press('Tab')
    await press(page, 'Run audit', '.v-dialog button')
    await press(page, 'View verdicts')
    await shows(page, 'Limited to pier.')
    const { audits } = await asked<{ audits: { scope: { devices: string[] } | null }[] }>('chronicle')
    expect(audits.at(-1)?.scope?.devices).to.deep.equal(['pier'])
  })

  it('deletes a snapshot that was a mistake, and leaves the one that a report cites', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/snapshots')
    await shows(page, 'One more')
    await page.click('[aria-label="Delete the snapshot Whole estate, November"]')
    await press(page, 'Delete snapshot')
    await shows(page, 'carried over to “One more”. Delete that snapshot first.')
    await page.click('[aria-label="Delete the snapshot One more"]')
    await press(page, 'Delete snapshot')
    await page.waitForFunction(() => !document.querySelector('main')?.innerText.includes('One more'), {
      timeout: PATIENCE,
    })
    expect((await asked<{ title: string }[]>('snapshots')).map(({ title }) => title)).to.not.include('One more')
  })

  it('declares which ports lead outside', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/traffic/network')
    await press(page, 'Declare outside interfaces')
    await press(page, 'Declare outside interfaces', '.end button')
    await shows(page, 'Declared: packets leave the estate only through these interfaces.')
    await press(page, 'Declare outside interfaces')
    await press(page, 'Remove declaration')
    await shows(page, 'Not declared: inferred from gateways outside the snapshot.')
  })
})
