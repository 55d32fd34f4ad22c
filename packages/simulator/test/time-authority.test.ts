import { execFileSync } from 'node:child_process'
import { createHash, randomBytes } from 'node:crypto'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readTimestamp, timestampRequest } from '@jurybox/core/evidence'
import { expect } from 'chai'
import { startTimeAuthority, type TimeAuthority } from '../src/index.ts'

const MANIFEST = new TextEncoder().encode('{"format":"jurybox-evidence"}')

/** Our requests are read by Debian's `openssl ts`, which also signs and verifies what we read (RFC 3161). */
for (const key of ['ec', 'rsa'] as const)
  describe(`time stamps by an authority that signs with ${key}`, function () {
    this.timeout(30_000)
    let authority: TimeAuthority
    let folder = ''
    let [request, response] = [new Uint8Array(), new Uint8Array()] as [Uint8Array, Uint8Array]
    before(async () => {
      folder = mkdtempSync(join(tmpdir(), 'jurybox-stamps-'))
      authority = await startTimeAuthority(key)
      request = timestampRequest(MANIFEST, randomBytes(16))
      response = await authority.answer(request)
      for (const [name, bytes] of [
        ['manifest.json', MANIFEST],
        ['a.tsq', request],
        ['a.tsr', response],
        ['cert.pem', Buffer.from(authority.certificate)],
      ] as const)
        writeFileSync(join(folder, name), bytes)
    })
    after(async () => {
      await authority.stop()
      rmSync(folder, { recursive: true, force: true })
    })
    const openssl = (...args: readonly string[]): string =>
      execFileSync('openssl', ['ts', ...args], { cwd: folder, stdio: 'pipe' }).toString()
    const code = (...given: Parameters<typeof readTimestamp>): string => {
      const read = readTimestamp(...given)
      return 'fault' in read ? read.fault : 'holds'
    }

    it('the request is parsed by openssl: hash, nonce, wish for the certificate', () => {
      const text = openssl('-query', '-in', 'a.tsq', '-text')
      expect(text)
        .to.contain('Version: 1')
        .and.contain('Hash Algorithm: sha256')
        .and.contain('Certificate required: yes')
      const shown = [...text.matchAll(/^\s+\d{4} - ([\da-f -]+?) {2}/gm)].map(([, hex]) => hex?.replace(/[ -]/g, ''))
      expect(shown.join('')).to.equal(createHash('sha256').update(MANIFEST).digest('hex'))
      expect(text).to.match(/Nonce: 0x01[\dA-F]{32}/)
    })

    it('the answer holds, for openssl and for us, and says when and by whom', () => {
      expect(openssl('-verify', '-in', 'a.tsr', '-queryfile', 'a.tsq', '-CAfile', 'cert.pem')).to.contain('OK')
      const read = readTimestamp(response, MANIFEST, request)
      if ('fault' in read) throw new Error(read.fault)
      expect(Math.abs(Date.parse(read.stamp.at) - Date.now())).to.be.below(60_000)
      expect(read.stamp.authority).to.contain('CN=Skerry Light Time')
      const pem = authority.certificate.replace(/-----.*-----|\s/g, '')
      const hash = createHash('sha256').update(Buffer.from(pem, 'base64')).digest('hex')
      expect(read.stamp.certificate).to.equal(hash)
    })

    it('of another manifest, to another request, or no answer at all, it does not hold', async () => {
      expect(code(response, new Uint8Array([1]), request)).to.equal('other-manifest')
      expect(code(response, MANIFEST, timestampRequest(MANIFEST, randomBytes(16)))).to.equal('other-request')
      expect(code(response, MANIFEST, null)).to.equal('holds')
      expect(code(new Uint8Array([0x30, 0]), MANIFEST, request)).to.equal('unreadable')
      expect(code(await authority.answer(new Uint8Array([0x30, 0])), MANIFEST, null)).to.equal('refused')
    })

    it('no bit of what is signed can be flipped', () => {
      const stated = readTimestamp(response, MANIFEST, request)
      const unheard: number[] = []
      for (let bit = 0; bit < response.length * 8; bit += 23) {
        const other = Uint8Array.from(response)
        other[bit >> 3] = (other[bit >> 3] ?? 0) ^ (1 << (bit & 7))
        const read = readTimestamp(other, MANIFEST, request)
        // What nobody signs, such as the text beside a status, may change; what the stamp says may not.
        if (!('fault' in read) && JSON.stringify(read) !== JSON.stringify(stated)) {
          const { certificate, ...said } = read.stamp
          if ('stamp' in stated && said.at !== stated.stamp.at) unheard.push(bit)
          // A changed certificate is another one: its fingerprint says so.
          if ('stamp' in stated && certificate === stated.stamp.certificate) unheard.push(bit)
        }
      }
      expect(unheard).to.deep.equal([])
    })

    it('is asked for by HTTP, as RFC 3161 §3.4 says', async () => {
      const ask = (type: string, body: Uint8Array): Promise<Response> =>
        fetch(authority.url, { method: 'POST', headers: { 'content-type': type }, body: new Uint8Array(body) })
      const answered = await ask('application/timestamp-query', request)
      expect(answered.headers.get('content-type')).to.equal('application/timestamp-reply')
      expect(code(new Uint8Array(await answered.arrayBuffer()), MANIFEST, request)).to.equal('holds')
      expect((await ask('text/plain', request)).status).to.equal(400)
      expect((await ask('application/timestamp-query', new Uint8Array(9000))).status).to.equal(400)
    })
  })
