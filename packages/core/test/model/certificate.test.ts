import { X509Certificate } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { expect } from 'chai'
import fc from 'fast-check'
import { EffectiveConfig, dialectById, modelOf, type DeviceModel, type Dialect } from '../../src/index.ts'
import { decodeCertificate } from '../../src/model/index.ts'

const pem = (name: string): string => readFileSync(new URL(`./certificates/${name}.pem`, import.meta.url), 'utf8')
const hexLines = (text: string): string =>
  (
    Buffer.from(new X509Certificate(text).raw)
      .toString('hex')
      .toUpperCase()
      .match(/.{1,64}/g) ?? []
  )
    .map((line) => `  ${(line.match(/.{1,8}/g) ?? []).join(' ')}`)
    .join('\n')
const model = (id: string, text: string): DeviceModel => {
  const dialect = dialectById(id) as Dialect
  return modelOf(EffectiveConfig.of(dialect.read(text), dialect), { record: 'r', mask: () => '' }).model
}

describe('certificates', () => {
  for (const name of ['rsa-2048', 'rsa-1024', 'ec-p256', 'ed25519']) {
    it(`${name}: decoded as Node’s own decoder does it`, () => {
      const theirs = new X509Certificate(pem(name))
      const ours = decodeCertificate(pem(name))
      const key = theirs.publicKey
      expect(ours?.subject).to.equal(theirs.subject.split('\n').join(', '))
      expect(ours?.issuer).to.equal(theirs.issuer.split('\n').join(', '))
      expect(ours?.serial.toUpperCase().replace(/^0+/, '')).to.equal(theirs.serialNumber.replace(/^0+/, ''))
      expect([Date.parse(ours?.notBefore ?? ''), Date.parse(ours?.notAfter ?? '')]).to.deep.equal([
        Date.parse(theirs.validFrom),
        Date.parse(theirs.validTo),
      ])
      expect(ours?.keyKind).to.equal(key.asymmetricKeyType)
      expect(ours?.keyBits).to.equal(
        key.asymmetricKeyType === 'rsa'
          ? key.asymmetricKeyDetails?.modulusLength
          : key.asymmetricKeyType === 'ec'
            ? 256
            : null,
      )
    })
  }

  it('of the indented dialect stand in hexadecimal lines', () => {
    const { trustPoints } = model(
      'indented',
      `crypto pki trustpoint OPS\n revocation-check crl\n rsakeypair OPS\ncrypto pki certificate chain OPS\n certificate self-signed 01\n${hexLines(pem('rsa-2048'))}\n  \tquit\nhostname a\n`,
    )
    expect(trustPoints).to.have.length(1)
    expect(trustPoints[0]).to.deep.include({ name: 'OPS', keyPair: 'OPS', revocationCheck: 'crl' })
    expect(trustPoints[0]?.certificates[0]).to.deep.include({
      role: 'self-signed',
      keyKind: 'rsa',
      keyBits: 2048,
      signature: 'sha256WithRSA',
      subject: 'C=XX, O=Merrow Sound Ferries, CN=ops-core1.merrow.example',
    })
  })

  it('of the braced dialect stand in quotes', () => {
    const { trustPoints } = model('braced', `security { certificates { local { web { "${pem('ec-p256')}"; } } } }`)
    expect(trustPoints[0]?.certificates[0]).to.deep.include({
      keyKind: 'ec',
      keyBits: 256,
      subject: 'O=Merrow Sound Ferries, CN=Quay\\, South',
    })
  })

  it('that are cut off or something else are none, and nothing throws', () => {
    const bytes = Buffer.from(new X509Certificate(pem('rsa-2048')).raw)
    expect(decodeCertificate('3082 0001')).to.equal(null)
    fc.assert(
      fc.property(
        fc.nat({ max: bytes.length - 1 }),
        fc.nat({ max: 255 }),
        fc.nat({ max: bytes.length }),
        (at, value, length) => {
          const damaged = Buffer.from(bytes.subarray(0, length))
          if (at < damaged.length) damaged[at] = value
          decodeCertificate(damaged.toString('hex'))
        },
      ),
      { numRuns: 300 },
    )
    fc.assert(fc.property(fc.string({ unit: 'binary' }), (text) => decodeCertificate(text) === null))
  })
})
