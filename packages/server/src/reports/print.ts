import { access, constants, mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { DEFAULT_LANGUAGE, pageWords, textsOf, type ReportLanguage } from '@jurybox/core/report'
import puppeteer, { type Browser } from 'puppeteer-core'
import { Problem } from '../http/problem.ts'
import { paperStyle } from './look.ts'

/** A document as it goes to paper. */
export interface Printed {
  /** One HTML file with a style sheet that needs nothing else; its `<title>` becomes the title of the PDF. */
  readonly html: string
  /** Said at the head of each page. */
  readonly head: string
  /** Said at the foot of each page beside its number. */
  readonly foot: string
  readonly language?: ReportLanguage
}

/** How long a document may take, in milliseconds: 3,000 findings take less than a tenth of it. */
const PATIENCE = 300_000
/** Most memory of the page that is laid out, in MB of its heap. */
const HEAP_MB = 512

/**
 * Prints HTML as PDF with Debian's Chromium: tagged, with bookmarks by its headings, its fonts within, charts as
 * vectors. The document may run nothing and ask for nothing. One document is printed at a time: each takes a process.
 */
export class Printer {
  #turn: Promise<unknown> = Promise.resolve()
  readonly #open = new Set<Browser>()

  /** @param chromium path of the browser */
  constructor(readonly chromium: string) {}

  /** @param gone whoever asked no longer waits: nothing is printed, or it is stopped */
  async print(document: Printed, gone?: AbortSignal): Promise<Buffer> {
    const printed = this.#turn.then(() => this.#printed(document, gone))
    this.#turn = printed.catch(() => undefined)
    return printed
  }

  async close(): Promise<void> {
    await Promise.all([...this.#open].map((browser) => browser.close()))
  }

  async #printed({ html, head, foot, language = DEFAULT_LANGUAGE }: Printed, gone?: AbortSignal): Promise<Buffer> {
    gone?.throwIfAborted()
    await access(this.chromium, constants.X_OK).catch(() => {
      throw new Problem(503, `PDF needs the program ${this.chromium} (Debian's package chromium); it is not there.`)
    })
    const profile = await mkdtemp(join(tmpdir(), 'jurybox-print-'))
    const browser = await puppeteer.launch({ executablePath: this.chromium, userDataDir: profile, args: switches() })
    this.#open.add(browser)
    const stop = (): void => void browser.close()
    gone?.addEventListener('abort', stop)
    try {
      gone?.throwIfAborted()
      const page = await browser.newPage()
      page.setDefaultTimeout(PATIENCE)
      await page.setJavaScriptEnabled(false)
      await page.setOfflineMode(true)
      const style = paperStyle(head, foot, pageWords(textsOf(language)))
      await page.setContent(html.replace('</style>', () => `${style}</style>`))
      return Buffer.from(
        await page.pdf({
          preferCSSPageSize: true,
          printBackground: true,
          tagged: true,
          outline: true,
          timeout: PATIENCE,
        }),
      )
    } finally {
      gone?.removeEventListener('abort', stop)
      this.#open.delete(browser)
      await browser.close()
      await rm(profile, { recursive: true, force: true })
    }
  }
}

function switches(): string[] {
  return [
    '--disable-gpu',
    '--disable-quic',
    '--disable-dev-shm-usage',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    `--js-flags=--max-old-space-size=${HEAP_MB}`,
    // Chromium refuses its own sandbox to root; what is printed is escaped text without a script.
    ...(process.getuid?.() === 0 ? ['--no-sandbox'] : []),
  ]
}
