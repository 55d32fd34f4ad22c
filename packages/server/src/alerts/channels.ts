import { createTransport } from 'nodemailer'
import type { Channel } from '@jurybox/api/channel'
import { z } from 'zod'
import type { Notification } from './notification.ts'
import { PATIENCE_MS, posted } from './post.ts'
import { contentDigest, signed } from './signature.ts'
import type { AllowedTargets, Target } from './targets.ts'

export interface Message {
  /** The same id for each attempt at one delivery, so that the receiver recognises repeats. */
  readonly id: string
  readonly engagement: string
  readonly test: boolean
  readonly letter: Notification
}

/** A sealed secret of an alert opens in its engagement only. */
export function placeOf(engagementId: number): string {
  return `alert ${engagementId}`
}

/**
 * Sends a message; returns what the other side said.
 * @param secret password for mail, key for a webhook, token for a ticket desk
 * @throws Error with what went wrong, without any secret
 */
export async function send(
  channel: Channel,
  secret: string | null,
  message: Message,
  targets: AllowedTargets,
  now = new Date(),
): Promise<string> {
  const place = await targets.target(channel.channel === 'mail' ? channel.host : new URL(channel.url).hostname)
  if (channel.channel === 'mail') return mailed(channel, place, secret, message)
  const { id, engagement, test, letter } = message
  if (channel.channel === 'webhook') {
    const body = JSON.stringify({ schema: 1, id, engagement, test, summary: letter.subject, events: letter.events })
    const target = new URL(channel.url)
    const digest = contentDigest(body)
    const components = [
      ['@method', 'POST'],
      ['@target-uri', target.href],
      ['content-digest', digest],
      ['content-type', 'application/json'],
    ] as const
    const { input, signature } = signed(
      components,
      `;created=${Math.floor(now.getTime() / 1000)};keyid="jurybox";alg="hmac-sha256"`,
      Buffer.from(secret ?? ''),
      'sig',
    )
    const { status } = await posted(target, place, body, {
      'content-digest': digest,
      'signature-input': input,
      signature,
      'idempotency-key': `"${id}"`,
    })
    return `answered ${status}`
  }
  const devices = [
    ...new Set(
      letter.events.flatMap(({ device, subject }) => (device ? [subject ? `${device}, ${subject}` : device] : [])),
    ),
  ]
  const body = JSON.stringify({ key: id, title: letter.subject, text: letter.text, devices, table: letter.csv })
  const answer = await posted(new URL(channel.url), place, body, {
    'idempotency-key': `"${id}"`,
    ...(secret ? { authorization: `Bearer ${secret}` } : {}),
  })
  const number = ticketNumber(answer.text)
  return number === null ? `answered ${answer.status}` : `ticket ${number}`
}

async function mailed(
  { host, port, tls, from, to, user }: Extract<Channel, { channel: 'mail' }>,
  { address }: Target,
  secret: string | null,
  { id, letter }: Message,
): Promise<string> {
  const transport = createTransport({
    host: address,
    port,
    tls: { servername: host },
    secure: tls === 'tls',
    requireTLS: tls === 'starttls',
    ignoreTLS: tls === 'none',
    connectionTimeout: PATIENCE_MS,
    greetingTimeout: PATIENCE_MS,
    socketTimeout: PATIENCE_MS,
    ...(user ? { auth: { user, pass: secret ?? '' } } : {}),
  })
  try {
    const info = await transport.sendMail({
      from,
      to: [...to],
      subject: letter.subject,
      text: letter.text,
      messageId: `<${id}@jurybox>`,
      attachments: [{ filename: 'what-changed.csv', content: letter.csv, contentType: 'text/csv; charset=utf-8' }],
    })
    return `accepted ${/^\d{3}/.exec(info.response)?.[0] ?? ''}`.trim()
  } catch (error) {
    throw new Error(`${host} ${mailFault(error)}`)
  } finally {
    transport.close()
  }
}

/** What went wrong with a mail, by its code: what a server says in words may hold anything. */
function mailFault(error: unknown): string {
  const code = error instanceof Error && 'code' in error ? String(error.code) : ''
  const answer = error instanceof Error && 'responseCode' in error ? ` (answered ${Number(error.responseCode)})` : ''
  const words: Readonly<Record<string, string>> = {
    EAUTH: 'refused the sign-in',
    EENVELOPE: 'refused the sender or every recipient',
    EMESSAGE: 'refused the message',
    ETLS: 'failed in the TLS handshake',
    ETIMEDOUT: 'did not answer in time',
    EDNS: 'has no address',
  }
  return `${words[code] ?? `could not be reached${code === '' ? '' : ` (${code})`}`}${answer}`
}

/** A ticket desk says the number of its ticket; where it does not, none is known. */
function ticketNumber(text: string): string | null {
  try {
    const answer = z
      .object({ number: z.union([z.string().regex(/^[\w#.-]{1,40}$/), z.number()]) })
      .safeParse(JSON.parse(text))
    return answer.success ? String(answer.data.number) : null
  } catch {
    // Not JSON: it says no number.
    return null
  }
}
