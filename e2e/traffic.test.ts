import { expect } from 'chai'
import { press, shows, signIn } from './browser.ts'
import { PASSWORD, useStage, type Stage } from './stage.ts'

describe('traffic in the browser', function () {
  this.timeout(600_000)
  let server: Stage['server']
  let page: Stage['page']
  let open: Stage['open']
  let until: Stage['until']
  useStage((stage) => ({ server, page, open, until } = stage))
  const marked = async (): Promise<string[]> => page.$$eval('aside.exhibit .line.marked, aside.exhibit .line.current', (lines) => lines.map((line) => line.querySelector('.text')?.textContent ?? ''))

  it('goes from an expectation that is broken to the line that lets packets through, and on to asking and tracing', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/traffic')
    await shows(page, 'Whatever reaches the card systems passes the firewall')
    const counts = await page.$$eval('[data-count]', (elements) => Object.fromEntries(elements.map((element) => [(element as HTMLElement).dataset['count'] ?? '', Number(element.textContent)])))
    expect(counts['broken']).to.be.above(1)
    expect(counts['holds']).to.be.above(1)
    expect((counts['broken'] ?? 0) + (counts['undecided'] ?? 0) + (counts['holds'] ?? 0)).to.equal(await page.$$eval('button.one', (all) => all.length))
    await page.evaluate(() => [...document.querySelectorAll<HTMLElement>('button.one')].find((one) => one.innerText.includes('passes the firewall'))?.click())
    await until(() => document.querySelector('article h2')?.textContent === 'Whatever reaches the card systems passes the firewall')
    await shows(page, 'some arrive without passing ops-fw1')
    await page.evaluate(() => document.querySelector<HTMLElement>('article button.as-link')?.click())
    await until(() => document.querySelectorAll('aside.exhibit .line.marked, aside.exhibit .line.current').length > 0)
    expect((await marked()).join('\n')).to.match(/10\.40\.60\.0\/24 is directly connected, Vlan60/)

    await press(page, 'Ask for every fate')
    await until(() => document.querySelectorAll('section[aria-label="Fates"] tbody tr').length > 0)
    expect(await page.$eval('section[aria-label="Fates"]', (section) => section.textContent)).to.contain('arrives').and.contain('src net 10.40.10.0/24')
    await page.evaluate(() => document.querySelector<HTMLElement>('section[aria-label="Fates"] tbody a')?.click())
    await until(() => document.querySelector('section[aria-label="Trace"] .strip') !== null)
    expect(await page.$eval('section[aria-label="Trace"]', (section) => section.textContent)).to.contain('ops-core1').and.contain('lookup')
  })

  it('a question is asked by keyboard, and what is wrong with it is said', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/traffic/ask')
    await shows(page, 'Every packet')
    await until(() => document.querySelectorAll('#places option').length > 10)
    const fill = async (label: string, text: string): Promise<void> => {
      await page.evaluate((wanted) => [...document.querySelectorAll('label')].find((one) => one.textContent?.trim().startsWith(wanted))?.querySelector('input')?.focus(), label)
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
    await until(() => [...document.querySelectorAll('section[aria-label="Fates"] .fate')].some((mark) => mark.textContent?.includes('arrives')))
    expect(page.url()).to.contain('only=udp')
  })

  it('what is expected is stated on the page, refused where it is wrong, and answered', async () => {
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/traffic')
    await press(page, 'State expectations')
    const state = async (text: string): Promise<void> => {
      await page.waitForSelector('form textarea')
      await page.evaluate(() => document.querySelector<HTMLTextAreaElement>('form textarea')?.select())
      await page.keyboard.type(text)
    }
    await state('expectations: [{ id: Wrong One, title: x, from: a, to: b, must: arrive }]')
    await press(page, 'Keep and answer')
    await shows(page, 'lower-case letters')
    await state('expectations: [{ id: one, title: Offices reach Operations, from: 10.40.10.0/24, to: 10.40.20.0/24, must: arrive }]')
    await press(page, 'Keep and answer')
    await shows(page, 'Offices reach Operations')
    await until(() => document.querySelectorAll('button.one').length === 1)
  })

  it('odd lines of filters open where they stand', async () => {
    await signIn(page, server.address, 'reader', PASSWORD)
    await open('/e/1/traffic/filters')
    await shows(page, 'never matches')
    await page.evaluate(() => [...document.querySelectorAll<HTMLElement>('.kinds button')].find((one) => one.innerText.startsWith('never matches'))?.click())
    await page.evaluate(() => document.querySelector<HTMLElement>('tbody button.as-link')?.click())
    await until(() => document.querySelectorAll('aside.exhibit .line.marked, aside.exhibit .line.current').length > 1)
  })
})
