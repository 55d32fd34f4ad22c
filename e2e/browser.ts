import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import puppeteer, { type Browser, type ElementHandle, type Page } from 'puppeteer-core'

/** How long to wait for what must come, on a machine that may be busy. */
export const PATIENCE = Number(process.env['PATIENCE'] ?? 90_000)

/** Debian's Chromium without a monitor and without the network beyond loopback. */
export async function openBrowser(): Promise<{ browser: Browser; close: () => Promise<void> }> {
  const profile = mkdtempSync(join(tmpdir(), 'jurybox-browser-'))
  const browser = await puppeteer.launch({
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    userDataDir: profile,
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--force-color-profile=srgb',
    ],
    timeout: PATIENCE,
    protocolTimeout: 3 * PATIENCE,
    defaultViewport: { width: 1280, height: 800 },
  })
  return {
    browser,
    close: async () => {
      await browser.close()
      rmSync(profile, { recursive: true, force: true })
    },
  }
}

/** Patience for what must come, and a list of what went wrong on a page that nobody saw. */
export function heed(page: Page, troubles: string[]): void {
  page.setDefaultTimeout(PATIENCE)
  page.on('pageerror', (error) => troubles.push(String(error)))
  page.on('console', (message) => {
    // A refused policy shows as an error on the console: the application obeys its own.
    // A question that the server refuses shows there too: the page says why (tests that ask wrongly look for it).
    if (message.type() === 'error' && !/status of (?:401|409|422)/.test(message.text())) troubles.push(message.text())
  })
}

/** Waits until the page shows some words. */
export async function shows(page: Page, words: string, timeout = PATIENCE): Promise<void> {
  await page
    .waitForFunction((wanted) => document.body.innerText.includes(wanted), { timeout }, words)
    .catch(missing(page, words))
}

/** Adds to a time-out what was waited for, and what the page shows instead. */
function missing(page: Page, wanted: string): (error: unknown) => Promise<never> {
  return async (error) => {
    const text = await page.evaluate(() => document.body.innerText)
    throw new Error(`"${wanted}" did not come at ${page.url()}. The page shows:\n${text}`, { cause: error })
  }
}

/** Clicks the first button or link with this text; one that is replaced just then is looked for again. */
export async function press(page: Page, text: string, selector = 'button, a, label'): Promise<void> {
  for (let left = 3; ; left--) {
    const handle = await page
      .waitForFunction(
        (wanted, where) =>
          [...document.querySelectorAll<HTMLElement>(where)].find(
            (element) => element.innerText.trim() === wanted && element.offsetParent !== null,
          ),
        { timeout: PATIENCE },
        text,
        selector,
      )
      .catch(missing(page, text))
    const element = handle.asElement() as ElementHandle<Element> | null
    try {
      await element?.click()
      return
    } catch (error) {
      const isGone = await element?.evaluate(({ isConnected }) => !isConnected)
      if (isGone !== true || left === 0) throw error
    }
  }
}

export async function type(page: Page, label: string, text: string): Promise<void> {
  const handle = await page
    .waitForFunction(
      (wanted) => {
        const found = [...document.querySelectorAll('label')].find(
          (element) => element.textContent?.trim() === wanted && element.htmlFor !== '',
        )
        return found ? document.getElementById(found.htmlFor) : null
      },
      { timeout: PATIENCE },
      label,
    )
    .catch(missing(page, label))
  const input = handle.asElement() as ElementHandle<Element> | null
  if (!input) throw new Error(`There is no field "${label}"`)
  await input.click({ count: 3 })
  await input.type(text)
  // What takes the focus away from who is typing loses the rest of the text.
  const elsewhere = await page.evaluate(
    (field) =>
      document.activeElement === field ? null : (document.activeElement?.outerHTML.slice(0, 200) ?? 'nowhere'),
    input,
  )
  if (elsewhere !== null) throw new Error(`The focus left "${label}" while it was typed into; it is at ${elsewhere}`)
}

export async function signIn(page: Page, address: string, name: string, password: string): Promise<void> {
  await page.goto(`${address}/sign-in`)
  await type(page, 'Sign-in name', name)
  await type(page, 'Password', password)
  await page.keyboard.press('Enter')
  await shows(page, 'snapshot')
}
