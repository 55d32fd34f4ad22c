import { expect } from 'chai'
import { press, shows, signIn, type } from './browser.ts'
import { PASSWORD, useStage, type Stage } from './stage.ts'

/** From what changed to what was meant: comparison, approval, reference, drift, the time line and the docket. */
describe('changes, in the browser', function () {
  this.timeout(300_000)
  let server: Stage['server']
  let page: Stage['page']
  let open: Stage['open']
  useStage((stage) => ({ server, page, open } = stage))

  it('compares two snapshots, opens a device, and approves what was meant', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/changes')
    await shows(page, '3 of 19 devices changed')
    await shows(page, '2 unexplained')
    await shows(page, 'SSH only and authenticated time at Quay North')
    await press(page, 'qs-dist1', 'td b')
    await shows(page, 'services http enabled')
    await shows(page, 'unchanged lines')
    await open('/e/1/changes')
    await shows(page, 'qs-dist1')
    await page.evaluate(() =>
      [...document.querySelectorAll('tbody tr')]
        .find((row) => row.textContent?.includes('qs-dist1'))
        ?.querySelector('input')
        ?.click(),
    )
    await press(page, 'Approve changes')
    await type(page, 'Reason', 'Ticket 4711')
    await press(page, 'Approve changes', '.v-dialog button')
    await shows(page, 'approved: Ticket 4711')
    await open('/e/1/chronicle')
    await shows(page, 'State of qs-dist1 approved: Ticket 4711')
  })

  it('runs checks, derives a reference, and drift names who departs', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/changes/checks')
    await shows(page, 'NTP servers are kept')
    await open('/e/1/changes/references')
    await press(page, 'Derive reference')
    await shows(page, 'Common lines of 14 devices')
    await press(page, 'Save reference')
    await shows(page, 'NTP (indented)')
    await open('/e/1/changes/drift')
    await shows(page, 'ves-gannet')
    const departing = await page.$$eval('tbody tr', (rows) =>
      rows.flatMap((row) => (row.textContent?.includes('NTP') ? [row.querySelector('b')?.textContent] : [])),
    )
    expect(departing.sort()).to.deep.equal(['qs-dist1', 'ves-gannet'])
    await open('/e/1/changes/references')
    await press(page, '1 conform', 'button.cell span')
    await press(page, 'Add as rule', 'a')
    await shows(page, '“Authenticated time” is added to your own rules')
    await shows(page, 'conforms')
  })

  it('tells of a window what was planned, what was not, and what the state has in common', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/changes/windows')
    await press(page, 'SSH only and authenticated time at Quay North', 'td')
    await shows(page, 'no longer telnet')
    await shows(page, 'dd-sw1')
    await open('/e/1/changes/references')
    await press(page, 'Derive reference')
    await shows(page, 'Clock synchronised')
    await shows(page, 'not known of 13 devices')
  })

  it('puts the findings that are reached from outside first', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/verdicts/docket')
    await shows(page, 'reached from outside')
    const first = await page.$eval('tbody tr', (row) => row.textContent ?? '')
    expect(first).to.contain('high').and.contain('reached from outside')
  })
})
