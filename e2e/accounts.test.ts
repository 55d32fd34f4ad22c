import { expect } from 'chai'
import { generate } from 'otplib'
import { press, shows, signIn, type } from './browser.ts'
import { PASSWORD, useStage, type Stage } from './stage.ts'

const OWN = 'sandpipers on the slipway'

describe('accounts in the browser', function () {
  this.timeout(120_000)
  let stage: Stage
  useStage((given) => (stage = given))

  const words = (): Promise<string> => stage.page.$eval('body', (body) => body.innerText)

  it('an administrator creates one; its owner chooses a password, then sees the engagement that a lead adds them to', async () => {
    const { page, open, server } = stage
    await signIn(page, server.address, 'lead', PASSWORD)
    await server.services.database.query('UPDATE sessions SET proved_at = NULL')
    await open('/e/1/installation')
    await type(page, 'Full name', 'Ada Newcomer')
    await type(page, 'Sign-in name', 'ada')
    await press(page, 'Create account')
    await shows(page, 'Confirm your identity')
    await type(page, 'Password', PASSWORD)
    await press(page, 'Confirm')
    await shows(page, 'One-time password of ada')
    const given = await page.$eval('.once', (once) => once.textContent ?? '')
    await open('/e/1/settings')
    await type(page, 'Sign-in name of the account', 'ada')
    await press(page, 'Add member')
    await shows(page, 'Member added.')

    await page.deleteCookie(...(await page.cookies()))
    await open('/sign-in')
    await type(page, 'Sign-in name', 'ada')
    await type(page, 'Password', given)
    await press(page, 'Sign in')
    await shows(page, 'You signed in with a one-time password.')
    // No other page opens before.
    await open('/e/1/overview')
    await shows(page, 'You signed in with a one-time password.')
    await type(page, 'One-time password', given)
    await type(page, 'New password, at least 15 characters', OWN)
    await press(page, 'Change password')
    await shows(page, 'Age of evidence')
  })

  it('with a second factor, signing in asks for its code', async () => {
    const { page, open, server } = stage
    await signIn(page, server.address, 'engineer', PASSWORD)
    await open('/e/1/settings')
    await press(page, 'Set up second factor')
    await page.waitForSelector('.secret')
    const secret = await page.$eval('.secret', (text) => text.textContent ?? '')
    const codeIn = (seconds: number): Promise<string> =>
      generate({ secret, epoch: Math.floor(Date.now() / 1000) + seconds })
    await type(page, 'Six-digit code', await codeIn(-30))
    await press(page, 'Turn on')
    await shows(page, 'Save these recovery codes.')
    expect(await page.$$('.codes li')).to.have.length(10)

    await page.deleteCookie(...(await page.cookies()))
    await open('/sign-in')
    await type(page, 'Sign-in name', 'engineer')
    await type(page, 'Password', PASSWORD)
    await press(page, 'Sign in')
    await shows(page, 'Code of your second factor')
    expect(await words()).to.not.contain('wrong')
    await type(page, 'Code of your second factor, or a recovery code', await codeIn(0))
    await press(page, 'Sign in')
    await shows(page, 'Age of evidence')
    await open('/e/1/settings')
    await shows(page, 'this one')
  })

  it('the key is changed while people go on working', async () => {
    const { page, open, server } = stage
    await signIn(page, server.address, 'lead', PASSWORD)
    await open('/e/1/installation')
    await press(page, 'Change key')
    await shows(page, 're-encrypted')
    await open('/e/1/estate/1?tab=system')
    await shows(page, 'Interfaces (')
  })
})
