import { execFileSync, spawnSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { hexToBytes } from '@noble/hashes/utils.js'
import { expect } from 'chai'
import fc from 'fast-check'
import { unzipSync } from 'fflate'
import {
  isPartOf,
  logHeadMessage,
  isSigned,
  keyFingerprint,
  partProof,
  readPack,
  readSums,
  signPack,
  verifyPack,
  verifyPackBytes,
  writePack,
  writeSums,
  type PackFiles,
  type Verification,
} from '../../src/evidence/index.ts'
import {
  KEYS,
  OTHER_KEYS,
  bytes,
  manifestOf,
  rawKey,
  signedPack,
  signer,
  stage,
  text,
  withCountersignature,
} from './stage.ts'

const faultsOf = ({ faults }: Verification): string[] => [...new Set(faults.map(({ code }) => code))]
const edited = (pack: PackFiles, path: string, change: (content: string) => string): Map<string, Uint8Array> => {
  const before = text(pack.get(path))
  const after = change(before)
  if (after === before) throw new Error(`the change of ${path} changes nothing`)
  return new Map([...pack, [path, bytes(after)]])
}
/** Changes files before they are signed: what somebody with the key could do. */
const resigned = (
  change: (files: Map<string, Uint8Array>) => Map<string, Uint8Array>,
  keys = KEYS,
): Map<string, Uint8Array> => {
  const { files, about } = stage()
  const key = { algorithm: 'Ed25519' as const, public: Buffer.from(rawKey(keys.publicKey)).toString('base64') }
  return signPack(change(files), { ...about, key }, signer(keys.privateKey))
}
/** With a finding about the MTU turned into a pass. */
const forged = (audit: string): string => {
  const document = JSON.parse(audit) as { verdicts: { rule: string; outcome: string }[] }
  const verdicts = document.verdicts.map((one) => (one.rule === 'mtu' ? { ...one, outcome: 'pass' } : one))
  return JSON.stringify({ ...document, verdicts })
}
const FINGERPRINT = keyFingerprint(rawKey(KEYS.publicKey))

/** A head of the audit log, signed. @param digit of which the hash consists */
function head(day: string, entry: number, digit: string, keys = KEYS): object {
  const said = { day, entry, hash: digit.repeat(64) }
  return { ...said, signature: Buffer.from(signer(keys.privateKey)(logHeadMessage(said))).toString('base64') }
}
/** A signed pack with one entry of the audit log, whose hash is all `a`, and heads. */
function withHeads(heads: readonly object[]): Map<string, Uint8Array> {
  return resigned(
    (files) =>
      new Map([
        ...files,
        ['activity.json', bytes(JSON.stringify([{ id: 3, hash: 'a'.repeat(64) }]))],
        ['log-heads.json', bytes(JSON.stringify(heads))],
      ]),
  )
}

describe('packs of evidence', () => {
  const pack = signedPack()

  it('a pack as it was made is whole, signed, and its verdicts come out again', () => {
    const { faults, signed, recomputed } = verifyPack(pack, { key: FINGERPRINT })
    expect(faults).to.deep.equal([])
    expect(signed).to.deep.equal([{ by: 'Isolde Wren', at: '2026-11-17T09:00:00.000Z', fingerprint: FINGERPRINT }])
    expect(recomputed).to.deep.equal({ verdicts: 6, equal: 5, notReproduced: 1 })
  })
  it('says which verdicts rest on secrets that it does not hold; with the secrets all come out', () => {
    expect(manifestOf(pack).notReproduced).to.deep.equal([
      { device: 'core', benchmark: 'own', rule: 'public', why: 'masked' },
    ])
    const whole = verifyPack(signedPack({ masked: false }))
    expect(whole.faults).to.deep.equal([])
    expect(whole.recomputed).to.deep.equal({ verdicts: 6, equal: 6, notReproduced: 0 })
    expect(text(pack.get('snapshot/devices/core/config.txt'))).not.to.contain('public')
  })
  it('a second person signs the same manifest', () => {
    const both = verifyPack(withCountersignature(pack))
    expect(both.faults).to.deep.equal([])
    expect(both.signed.map(({ by }) => by)).to.deep.equal(['Isolde Wren', 'Bram Teasel'])
  })

  const later = (): Map<string, Uint8Array> => {
    const { files, about } = stage()
    const { root, madeAt } = manifestOf(pack)
    return signPack(
      files,
      { ...about, madeAt: '2026-11-20T09:00:00.000Z', previous: { root, madeAt } },
      signer(KEYS.privateKey),
    )
  }
  it('follows the pack before it', () => {
    expect(verifyPack(later(), { previous: pack }).faults).to.deep.equal([])
  })

  const CASES: Readonly<Record<string, [() => Verification, ...string[]]>> = {
    'a changed record': [
      () => verifyPack(edited(pack, 'snapshot/devices/edge/config.txt', (one) => one.replace('9000', '1500'))),
      'file-changed',
      'verdict-differs',
    ],
    'a changed verdict': [
      () => verifyPack(edited(pack, 'audit.json', (one) => forged(one))),
      'file-changed',
      'verdict-differs',
      'sum-differs',
    ],
    'a verdict changed by whoever has the key': [
      () => verifyPack(resigned((files) => edited(files, 'audit.json', (one) => forged(one)))),
      'verdict-differs',
      'sum-differs',
    ],
    'a record changed by whoever has the key': [
      () =>
        verifyPack(
          resigned((files) => edited(files, 'snapshot/devices/edge/config.txt', (one) => one.replace('9000', '1500'))),
        ),
      'verdict-differs',
    ],
    'a changed rule': [
      () => verifyPack(edited(pack, 'benchmarks/own.yaml', (one) => one.replace('default: 1500', 'default: 9000'))),
      'file-changed',
    ],
    'a rule changed by whoever has the key': [
      () =>
        verifyPack(
          resigned((files) => edited(files, 'benchmarks/own.yaml', (one) => one.replace('ntp server', 'ntp peer'))),
        ),
      'verdict-differs',
    ],
    'a value changed by whoever has the key': [
      () => verifyPack(resigned((files) => edited(files, 'choices.json', (one) => one.replace('1500', '9000')))),
      'verdict-differs',
    ],
    'a changed waiver': [
      () => verifyPack(edited(pack, 'waivers.json', (one) => one.replace('2027', '2029'))),
      'file-changed',
      'verdict-differs',
    ],
    'a waiver given to another rule by whoever has the key': [
      () =>
        verifyPack(
          resigned((files) => edited(files, 'waivers.json', (one) => one.replace('"rule": "mtu"', '"rule": "server"'))),
        ),
      'verdict-differs',
    ],
    'an answer changed by whoever has the key': [
      () => verifyPack(resigned((files) => edited(files, 'answers.json', (one) => one.replace('"pass"', '"fail"')))),
      'sum-differs',
    ],
    'a removed file': [
      () => verifyPack(new Map([...pack].filter(([path]) => path !== 'snapshot/devices/edge/config.txt'))),
      'file-missing',
      'verdict-differs',
    ],
    'an added file': [() => verifyPack(new Map([...pack, ['snapshot/note.txt', bytes('x')]])), 'file-added'],
    'a line taken out of the list, with its file': [
      () =>
        verifyPack(
          edited(new Map([...pack].filter(([path]) => path !== 'activity.json')), 'SHA256SUMS', (one) =>
            one.replace(/.* {2}activity.json\n/, ''),
          ),
        ),
      'root-differs',
    ],
    'lines in another order': [
      () =>
        verifyPack(edited(pack, 'SHA256SUMS', (one) => `${one.split('\n').filter(Boolean).reverse().join('\n')}\n`)),
      'sums-invalid',
    ],
    'another manifest': [
      () => verifyPack(edited(pack, 'manifest.json', (one) => one.replace('Isolde Wren', 'Casper Dunlin'))),
      'signature-wrong',
    ],
    'no signature': [
      () => verifyPack(new Map([...pack].filter(([path]) => path !== 'manifest.sig'))),
      'signature-missing',
    ],
    'another key': [
      () =>
        verifyPack(
          resigned((files) => files, OTHER_KEYS),
          { key: FINGERPRINT },
        ),
      'other-key',
    ],
    'the chain: another pack before it': [
      () => verifyPack(later(), { previous: withCountersignature(signedPack({ masked: false })) }),
      'chain-broken',
    ],
    'the chain: it names none': [() => verifyPack(pack, { previous: later() }), 'chain-broken'],
    'made before the audit': [
      () => {
        const { files, about } = stage()
        return verifyPack(signPack(files, { ...about, madeAt: '2026-11-15T00:00:00Z' }, signer(KEYS.privateKey)))
      },
      'time-wrong',
    ],
    'made before the pack before it': [
      () => {
        const { files, about } = stage()
        const previous = { root: '0'.repeat(64), madeAt: '2026-12-01T00:00:00Z' }
        return verifyPack(signPack(files, { ...about, previous }, signer(KEYS.privateKey)))
      },
      'time-wrong',
    ],
    'countersigned before it was made': [
      () => verifyPack(withCountersignature(pack, { at: '2026-11-01T00:00:00Z' })),
      'time-wrong',
    ],
    'countersigned with the same key': [
      () => verifyPack(withCountersignature(pack, { keys: KEYS })),
      'countersignature-wrong',
    ],
    'a countersignature with another time': [
      () =>
        verifyPack(
          edited(withCountersignature(pack), 'countersignatures.json', (one) => one.replace('10:00', '11:00')),
        ),
      'countersignature-wrong',
    ],
    'a countersignature of another pack': [
      () =>
        verifyPack(
          new Map([
            ...signedPack({ masked: false }),
            ['countersignatures.json', withCountersignature(pack).get('countersignatures.json') ?? bytes('')],
          ]),
        ),
      'countersignature-wrong',
    ],
    'no manifest': [() => verifyPack(new Map()), 'no-manifest'],
    'a manifest of another kind': [() => verifyPack(new Map([['manifest.json', bytes('{}')]])), 'manifest-invalid'],
    'a benchmark that cannot be read': [
      () =>
        verifyPack(
          resigned((files) => edited(files, 'benchmarks/own.yaml', () => 'id: [')),
          { recompute: true },
        ),
      'content-invalid',
    ],
    'a head of the audit log that somebody else signed': [
      () => verifyPack(withHeads([head('2026-11-16', 3, 'a', OTHER_KEYS)])),
      'log-head-wrong',
    ],
    'a head of the audit log with another hash than its entry': [
      () => verifyPack(withHeads([head('2026-11-16', 3, 'b')])),
      'log-head-wrong',
    ],
    'heads of the audit log in another order': [
      () => verifyPack(withHeads([head('2026-11-16', 3, 'a'), head('2026-11-15', 2, 'c')])),
      'log-head-wrong',
    ],
    'heads of the audit log that are none': [() => verifyPack(withHeads([{ day: 'today' }])), 'log-head-wrong'],
    'an archive of another kind': [() => verifyPackBytes(bytes('PK nothing')), 'container-wrong'],
  }
  for (const [name, [verify, ...codes]] of Object.entries(CASES))
    it(`finds ${name}`, () => expect(faultsOf(verify())).to.include.members(codes))

  it('heads of the audit log that are signed, in order and of its entries are no fault', () => {
    const heads = [head('2026-11-15', 2, 'c'), head('2026-11-16', 3, 'a')]
    expect(faultsOf(verifyPack(withHeads(heads)))).to.deep.equal([])
  })

  it('finds each of a thousand flipped bits, in the archive and in its files', () => {
    const whole = writePack(withCountersignature(pack))
    fc.assert(
      fc.property(fc.nat(whole.length * 8 - 1), (bit) => {
        const flipped = Uint8Array.from(whole)
        flipped[bit >> 3] = (flipped[bit >> 3] ?? 0) ^ (1 << (bit & 7))
        expect(verifyPackBytes(flipped, { recompute: false }).faults).not.to.deep.equal([])
      }),
      { numRuns: 500 },
    )
    const files = [...withCountersignature(pack)]
    fc.assert(
      fc.property(fc.nat(files.length - 1), fc.nat(), (at, seed) => {
        const [path, content] = files[at] ?? ['', new Uint8Array(1)]
        const flipped = Uint8Array.from(content)
        const bit = seed % (content.length * 8)
        flipped[bit >> 3] = (flipped[bit >> 3] ?? 0) ^ (1 << (bit & 7))
        const { faults } = verifyPack(new Map([...files, [path, flipped]]), { recompute: false })
        // Bits of base64 that stand for nothing change nothing that is read; the archive shows them.
        const isUnread = path === 'countersignatures.json' && faults.length === 0
        expect(isUnread || faults.length > 0, path).to.equal(true)
      }),
      { numRuns: 500 },
    )
  })

  describe('a part alone', () => {
    const sums = readSums(text(pack.get('SHA256SUMS'))) ?? []
    const { root } = manifestOf(pack)
    const path = 'snapshot/devices/core/config.txt'
    const proof = partProof(sums, path)

    it('shows that it belongs to the pack, without the others', () => {
      for (const { path: one } of sums) {
        const own = partProof(sums, one)
        expect(own && isPartOf(pack.get(one) ?? new Uint8Array(), own, root), one).to.equal(true)
      }
    })
    it('neither other content, nor another name, place or head', () => {
      if (!proof) throw new Error('no proof')
      const content = pack.get(path) ?? new Uint8Array()
      expect(isPartOf(bytes('other'), proof, root)).to.equal(false)
      expect(isPartOf(content, { ...proof, path: 'snapshot/devices/edge/config.txt' }, root)).to.equal(false)
      expect(isPartOf(content, { ...proof, index: proof.index + 1 }, root)).to.equal(false)
      expect(isPartOf(content, proof, '0'.repeat(64))).to.equal(false)
      expect(partProof(sums, 'none')).to.equal(null)
    })
  })
})

describe('signatures', () => {
  /** RFC 8032 §7.1, tests 1 to 3: public key, message, signature. */
  const VECTORS = [
    [
      'd75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a',
      '',
      'e5564300c360ac729086e2cc806e828a84877f1eb8e5d974d873e06522490155' +
        '5fb8821590a33bacc61e39701cf9b46bd25bf5f0595bbe24655141438e7a100b',
    ],
    [
      '3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c',
      '72',
      '92a009a9f0d4cab8720e820b5f642540a2b27b5416503f8fb3762223ebdb69da' +
        '085ac1e43e15996e458f3613d0f11d8c387b2eaeb4302aeeb00d291612bb0c00',
    ],
    [
      'fc51cd8e6218a1a38da47ed00230f0580816ed13ba3303ac5deb911548908025',
      'af82',
      '6291d657deec24024827e69c3abe01a30ce548a284743a445e3680d7db5ac3ac' +
        '18ff9b538d16f290ae67f760984dc6594a7c15e9716ed28dc027beceea1ec40a',
    ],
  ].map((vector) => vector.map(hexToBytes) as [Uint8Array, Uint8Array, Uint8Array])

  for (const [i, [key, message, signature]] of VECTORS.entries())
    it(`test ${i + 1} of RFC 8032 §7.1`, () => {
      expect(isSigned(message, signature, key)).to.equal(true)
      expect(isSigned(Uint8Array.of(...message, 0), signature, key)).to.equal(false)
    })
  it('bytes that are no key sign nothing', () => {
    expect(isSigned(bytes(''), new Uint8Array(64), new Uint8Array(32).fill(255))).to.equal(false)
    expect(isSigned(bytes(''), new Uint8Array(3), new Uint8Array(32))).to.equal(false)
  })
})

describe('a pack without the tool', () => {
  const pack = signedPack()
  let folder = ''
  before(() => {
    folder = mkdtempSync(join(tmpdir(), 'jurybox-pack-'))
    writeFileSync(join(folder, 'pack.zip'), writePack(pack))
    for (const [path, content] of pack) {
      mkdirSync(dirname(join(folder, 'files', path)), { recursive: true })
      writeFileSync(join(folder, 'files', path), content)
    }
  })
  after(() => rmSync(folder, { recursive: true, force: true }))

  it('its list is one of `sha256sum --check`', () => {
    const told = execFileSync('sha256sum', ['--check', '--strict', '--quiet', 'SHA256SUMS'], {
      cwd: join(folder, 'files'),
    })
    expect(told.toString()).to.equal('')
  })
  it('its signature is one of `openssl`', () => {
    const verify = ['pkeyutl', '-verify', '-pubin', '-inkey', 'key.pem', '-rawin', '-in', 'manifest.json']
    const { stdout, status } = spawnSync('openssl', [...verify, '-sigfile', 'manifest.sig'], {
      cwd: join(folder, 'files'),
    })
    expect([stdout.toString().trim(), status]).to.deep.equal(['Signature Verified Successfully', 0])
  })
  it('its archive is one of another library, and reads back the same', () => {
    const unzipped = unzipSync(writePack(pack))
    expect(Object.keys(unzipped).sort()).to.deep.equal([...pack.keys()].sort())
    expect(text(unzipped['audit.json'])).to.equal(text(pack.get('audit.json')))
    expect(new Map(readPack(writePack(pack)) ?? [])).to.have.keys([...pack.keys()])
  })
  it('its archive is one of `unzip`, which checks every sum', () => {
    const { stdout, status } = spawnSync('unzip', ['-t', join(folder, 'pack.zip')])
    expect([stdout.toString().trim().split('\n').at(-1), status]).to.deep.equal([
      `No errors detected in compressed data of ${join(folder, 'pack.zip')}.`,
      0,
    ])
  })
  it('a list reads as it was written', () => {
    const sums = readSums(text(pack.get('SHA256SUMS'))) ?? []
    expect(writeSums(sums)).to.equal(text(pack.get('SHA256SUMS')))
  })
})
