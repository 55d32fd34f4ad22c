import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import type { AddressInfo } from 'node:net'
import { simpleParser } from 'mailparser'
import { SMTPServer } from 'smtp-server'

export interface ArrivedMail {
  readonly id: string
  readonly from: string
  readonly to: string
  readonly subject: string
  readonly text: string
  readonly attachments: readonly { readonly name: string; readonly text: string }[]
  readonly at: string
}

/** What came by HTTP: a ticket where somebody opened one, else a call of a webhook. */
export interface ArrivedCall {
  readonly ticket: number | null
  readonly path: string
  readonly headers: Readonly<Record<string, string>>
  readonly body: string
  readonly at: string
}

/** Bigger than this, nothing is taken in. */
const MOST_BYTES = 5_000_000

/** A mail sink, a ticket desk and a webhook on loopback, with a page that shows what arrived. Nothing leaves it. */
export class Desk {
  readonly mails: ArrivedMail[] = []
  readonly calls: ArrivedCall[] = []
  /** So many of what comes next is turned away for now. */
  turnsAway = 0
  readonly #smtp: SMTPServer
  readonly #http: Server
  #tickets = 0

  /** @param extra more for the page, and what its buttons do */
  constructor(
    readonly extra: { readonly page: () => string; readonly act: (path: string) => Promise<void> } = {
      page: () => '',
      act: async () => undefined,
    },
  ) {
    this.#smtp = new SMTPServer({
      authOptional: true,
      disabledCommands: ['STARTTLS', 'AUTH'],
      size: MOST_BYTES,
      onMailFrom: (_address, _session, done) =>
        done(this.#away() ? Object.assign(new Error('try again later'), { responseCode: 451 }) : null),
      onData: (stream, session, done) => {
        simpleParser(stream).then(
          (mail) => {
            this.mails.push({
              id: mail.messageId ?? '',
              from: mail.from?.text ?? '',
              to: session.envelope.rcptTo.map(({ address }) => address).join(', '),
              subject: mail.subject ?? '',
              text: mail.text ?? '',
              attachments: mail.attachments.map(({ filename, content }) => ({
                name: filename ?? '',
                text: content.toString('utf8'),
              })),
              at: new Date().toISOString(),
            })
            done()
          },
          (error: unknown) => done(error instanceof Error ? error : new Error(String(error))),
        )
      },
    })
    this.#http = createServer((request, response) => void this.#answer(request, response))
  }

  get tickets(): readonly ArrivedCall[] {
    return this.calls.filter(({ ticket }) => ticket !== null)
  }

  get smtpPort(): number {
    return (this.#smtp.server.address() as AddressInfo).port
  }

  get address(): string {
    return `http://127.0.0.1:${(this.#http.address() as AddressInfo).port}`
  }

  async listen(ports: { readonly http?: number; readonly smtp?: number } = {}): Promise<void> {
    await new Promise<void>((resolve, reject) =>
      this.#smtp.listen(ports.smtp ?? 0, '127.0.0.1', () => resolve()).once('error', reject),
    )
    await new Promise<void>((resolve, reject) =>
      this.#http.listen(ports.http ?? 0, '127.0.0.1', () => resolve()).once('error', reject),
    )
  }

  async stop(): Promise<void> {
    this.#http.closeAllConnections()
    await Promise.all([
      new Promise<void>((resolve) => this.#smtp.close(() => resolve())),
      new Promise<void>((resolve) => this.#http.close(() => resolve())),
    ])
  }

  #away(): boolean {
    if (this.turnsAway === 0) return false
    this.turnsAway -= 1
    return true
  }

  async #answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const path = new URL(request.url ?? '/', 'http://desk').pathname
    const say = (status: number, type: string, text: string, headers: Record<string, string> = {}): void =>
      void response.writeHead(status, { 'content-type': `${type}; charset=utf-8`, ...headers }).end(text)
    try {
      if (request.method === 'GET')
        return path === '/' ? say(200, 'text/html', this.#page()) : say(404, 'text/plain', 'There is nothing here.')
      if (request.method !== 'POST') return say(405, 'text/plain', 'Only GET and POST are known here.')
      const body = await bodyOf(request)
      if (path.startsWith('/act/')) {
        await this.extra.act(path.slice('/act/'.length))
        return say(303, 'text/plain', '', { location: '/' })
      }
      if (this.#away()) return say(503, 'text/plain', 'Try again later.')
      const ticket = path === '/tickets' ? ++this.#tickets : null
      this.calls.push({
        ticket,
        path,
        headers: Object.fromEntries(Object.entries(request.headers).map(([name, value]) => [name, String(value)])),
        body,
        at: new Date().toISOString(),
      })
      return ticket === null
        ? say(202, 'text/plain', '')
        : say(201, 'application/json', JSON.stringify({ number: ticket }))
    } catch (error) {
      say(400, 'text/plain', error instanceof Error ? error.message : String(error))
    }
  }

  #page(): string {
    const mails = this.mails.map(
      ({ at, to, subject, text, attachments }) =>
        `<article><h3>${safe(subject)}</h3><p class="quiet">${safe(at)} to ${safe(to)}</p><pre>${safe(text)}</pre>${attachments.map(({ name, text: held }) => `<details><summary>${safe(name)}</summary><pre>${safe(held)}</pre></details>`).join('')}</article>`,
    )
    const calls = this.calls.map(({ ticket, path, at, headers, body }) => {
      const signature = headers['signature']
      return `<article><h3>${ticket === null ? `Call of ${safe(path)}` : `Ticket ${ticket}`}</h3><p class="quiet">${safe(at)}${signature ? `, signed ${safe(signature)}` : ''}</p><pre>${safe(body)}</pre></article>`
    })
    const list = (title: string, all: readonly string[], none: string): string =>
      `<section><h2>${title}</h2>${all.length > 0 ? all.toReversed().join('') : `<p class="quiet">${none}</p>`}</section>`
    return `<!doctype html><html lang="en"><meta charset="utf-8"><title>The desk</title><style>${STYLE}</style><h1>The desk of the invented network</h1>${this.extra.page()}<main>${list('Mail', mails, 'No mail yet.')}${list('Tickets and calls', calls, 'No ticket and no call yet.')}</main></html>`
  }
}

const STYLE =
  'body{font:15px/1.45 sans-serif;margin:24px;color:#25202b;background:#f6f4ee}h1{font-family:serif}main{display:grid;grid-template-columns:1fr 1fr;gap:24px}article{background:#fffdf8;border:1px solid #d9d3c4;padding:10px 14px;margin:0 0 12px}h3{margin:0}pre{white-space:pre-wrap;overflow-wrap:anywhere;font-size:13px}.quiet{color:#6a6470}button{font:inherit;padding:4px 12px}'

async function bodyOf(request: IncomingMessage): Promise<string> {
  const parts: Buffer[] = []
  let size = 0
  for await (const part of request as AsyncIterable<Buffer>) {
    size += part.length
    if (size > MOST_BYTES) throw new Error('That is more than is taken in here.')
    parts.push(part)
  }
  return Buffer.concat(parts).toString('utf8')
}

/** Text as it may stand in the page. */
export function safe(text: string): string {
  return text.replace(/[&<>"']/g, (character) => `&#${character.charCodeAt(0)};`)
}
