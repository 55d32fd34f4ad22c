import { request as byHttp, type IncomingMessage } from 'node:http'
import { request as byTls } from 'node:https'
import type { Target } from './targets.ts'

/** An answer later than this is none. */
export const PATIENCE_MS = 15_000
/** Of an answer no more is read than this. */
const ANSWER_BYTES = 16 * 1024

/**
 * Posts a body to an address that was looked at before. Redirects are not followed.
 * @throws Error with what went wrong, and nothing of what the other side said
 */
export async function posted(
  url: URL,
  { address, family }: Target,
  body: string,
  headers: Record<string, string>,
): Promise<{ status: number; text: string }> {
  const late = new AbortController()
  const timer = setTimeout(() => late.abort(), PATIENCE_MS)
  try {
    const response = await answered(url, { address, family }, body, headers, late.signal)
    const status = response.statusCode ?? 0
    const text = await beginning(response)
    if (status < 200 || status > 299) throw new Refusal(`${url.host} answered ${status}`)
    return { status, text }
  } catch (error) {
    if (error instanceof Refusal) throw error
    if (late.signal.aborted) throw new Error(`${url.host} did not answer within ${PATIENCE_MS / 1000} seconds`)
    const code = error instanceof Error && 'code' in error ? String(error.code) : 'no connection'
    throw new Error(`${url.host} could not be reached (${code})`)
  } finally {
    clearTimeout(timer)
  }
}

class Refusal extends Error {}

function answered(
  url: URL,
  { address, family }: Pick<Target, 'address' | 'family'>,
  body: string,
  headers: Record<string, string>,
  signal: AbortSignal,
): Promise<IncomingMessage> {
  const send = url.protocol === 'https:' ? byTls : byHttp
  return new Promise((resolve, reject) => {
    const request = send(url, {
      method: 'POST',
      signal,
      agent: false,
      headers: { 'content-type': 'application/json', 'content-length': Buffer.byteLength(body), ...headers },
      // The name is not looked up again.
      lookup: (_, options, done) => {
        if (options.all) done(null, [{ address, family }])
        else done(null, address, family)
      },
    })
    request.once('response', resolve)
    request.once('error', reject)
    request.end(body)
  })
}

/** The first bytes of an answer; the rest is not waited for. */
async function beginning(response: IncomingMessage): Promise<string> {
  const parts: Buffer[] = []
  let size = 0
  for await (const part of response as AsyncIterable<Buffer>) {
    parts.push(part)
    size += part.length
    if (size >= ANSWER_BYTES) break
  }
  response.destroy()
  return Buffer.concat(parts).subarray(0, ANSWER_BYTES).toString('utf8')
}
