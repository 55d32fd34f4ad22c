import { execFile } from 'node:child_process'
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'

const run = promisify(execFile)

/** A time-stamp authority on loopback that stands in for a real one; Debian's `openssl` signs for it. */
export interface TimeAuthority {
  readonly url: string
  /** Its certificate, as PEM. */
  readonly certificate: string
  /** Answers a request (RFC 3161, DER). */
  answer(request: Uint8Array): Promise<Uint8Array>
  stop(): Promise<void>
}

const NAME = 'Skerry Light Time'
/** Most bytes of a request: it holds a hash, a nonce and little more. */
const LONGEST = 4096

/** @param key `ec` or `rsa`: what it signs with */
export async function startTimeAuthority(key: 'ec' | 'rsa' = 'ec'): Promise<TimeAuthority> {
  const folder = await mkdtemp(join(tmpdir(), 'jurybox-time-'))
  const at = (name: string): string => join(folder, name)
  const openssl = async (...args: readonly string[]): Promise<void> => void (await run('openssl', [...args]))
  await writeFile(at('openssl.cnf'), CONFIGURATION(folder))
  await writeFile(at('serial'), '01\n')
  const algorithm = key === 'ec' ? ['ec', '-pkeyopt', 'ec_paramgen_curve:P-256'] : ['rsa:2048']
  await openssl(
    ...['req', '-x509', '-nodes', '-days', '30', '-subj', `/O=Simulated/CN=${NAME}`, '-newkey', ...algorithm],
    ...['-config', at('openssl.cnf'), '-extensions', 'stamps', '-keyout', at('key.pem'), '-out', at('cert.pem')],
  )
  let number = 0
  async function answer(request: Uint8Array): Promise<Uint8Array> {
    const [asked, answered] = [at(`${++number}.tsq`), at(`${number}.tsr`)]
    await writeFile(asked, request)
    await openssl('ts', '-reply', '-config', at('openssl.cnf'), '-queryfile', asked, '-out', answered)
    return new Uint8Array(await readFile(answered))
  }
  // One request after the other: its serial numbers are in one file.
  let turn: Promise<unknown> = Promise.resolve()
  const http = createServer((request, response) => {
    const parts: Buffer[] = []
    let length = 0
    request.on('data', (part: Buffer) => {
      length += part.length
      if (length <= LONGEST) parts.push(part)
    })
    request.on('end', () => {
      if (length > LONGEST || request.headers['content-type'] !== 'application/timestamp-query')
        return void response.writeHead(400).end()
      turn = turn
        .then(() => answer(Buffer.concat(parts)))
        .then(
          (body) => response.writeHead(200, { 'content-type': 'application/timestamp-reply' }).end(body),
          () => response.writeHead(500).end(),
        )
    })
  })
  await new Promise<void>((resolve) => http.listen(0, '127.0.0.1', resolve))
  return {
    url: `http://127.0.0.1:${(http.address() as AddressInfo).port}/`,
    certificate: await readFile(at('cert.pem'), 'utf8'),
    answer,
    stop: async () => {
      await new Promise((resolve) => http.close(resolve))
      await rm(folder, { recursive: true, force: true })
    },
  }
}

const CONFIGURATION = (folder: string): string => `
[req]
distinguished_name = names
[names]
[stamps]
basicConstraints = critical, CA:FALSE
keyUsage = critical, digitalSignature
extendedKeyUsage = critical, timeStamping
[tsa]
default_tsa = authority
[authority]
serial = ${join(folder, 'serial')}
signer_cert = ${join(folder, 'cert.pem')}
signer_key = ${join(folder, 'key.pem')}
signer_digest = sha256
default_policy = 1.3.6.1.4.1.32473.1
digests = sha256, sha384, sha512
ordering = yes
ess_cert_id_alg = sha256
`
