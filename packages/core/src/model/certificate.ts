import { AsnConvert } from '@peculiar/asn1-schema'
import { Certificate, RelativeDistinguishedName, type Name } from '@peculiar/asn1-x509'

/** What a certificate (RFC 5280) says that an auditor asks about. Times are RFC 3339, UTC. */
export interface DecodedCertificate {
  readonly subject: string
  readonly issuer: string
  readonly serial: string
  readonly notBefore: string
  readonly notAfter: string
  /** `rsa`, `ec`, `ed25519`, `ed448`, `dsa`, or the object identifier. */
  readonly keyKind: string
  /** Of RSA the bits of the modulus, of a curve those of its field; null where not known. */
  readonly keyBits: number | null
  readonly signature: string
}

/** Object identifiers of RFC 3279, 4055, 5480, 5758, 8410. */
const KEYS: Readonly<Record<string, string>> = {
  '1.2.840.113549.1.1.1': 'rsa',
  '1.2.840.113549.1.1.10': 'rsa',
  '1.2.840.10045.2.1': 'ec',
  '1.3.101.112': 'ed25519',
  '1.3.101.113': 'ed448',
  '1.2.840.10040.4.1': 'dsa',
}
const SIGNATURES: Readonly<Record<string, string>> = {
  '1.2.840.113549.1.1.4': 'md5WithRSA',
  '1.2.840.113549.1.1.5': 'sha1WithRSA',
  '1.2.840.113549.1.1.11': 'sha256WithRSA',
  '1.2.840.113549.1.1.12': 'sha384WithRSA',
  '1.2.840.113549.1.1.13': 'sha512WithRSA',
  '1.2.840.113549.1.1.10': 'rsaPSS',
  '1.2.840.10045.4.1': 'ecdsaWithSHA1',
  '1.2.840.10045.4.3.2': 'ecdsaWithSHA256',
  '1.2.840.10045.4.3.3': 'ecdsaWithSHA384',
  '1.2.840.10045.4.3.4': 'ecdsaWithSHA512',
  '1.3.101.112': 'ed25519',
  '1.3.101.113': 'ed448',
}
/** Named curves as they stand encoded in the parameters of a key (RFC 5480 §2.1.1.1), with the bits of their field. */
const CURVES: Readonly<Record<string, number>> = {
  '06082a8648ce3d030107': 256,
  '06052b81040022': 384,
  '06052b81040023': 521,
  '06052b81040021': 224,
  '06082a8648ce3d030101': 192,
}
const NAMES: Readonly<Record<string, string>> = {
  '2.5.4.3': 'CN',
  '2.5.4.6': 'C',
  '2.5.4.7': 'L',
  '2.5.4.8': 'ST',
  '2.5.4.10': 'O',
  '2.5.4.11': 'OU',
  '2.5.4.5': 'serialNumber',
  '1.2.840.113549.1.9.1': 'emailAddress',
  '0.9.2342.19200300.100.1.25': 'DC',
}

/** Larger than any certificate of a device. */
const LARGEST = 64 * 1024

/** Decodes the text of a certificate, in hexadecimal lines or PEM; null where it is none. */
export function decodeCertificate(text: string): DecodedCertificate | null {
  const bytes = text.length > 3 * LARGEST ? null : bytesOf(text)
  if (!bytes || bytes.length < 64) return null
  try {
    return describe(AsnConvert.parse(bytes, Certificate))
  } catch {
    // What a library cannot decode is no certificate: the listing may be cut off or hold something else.
    return null
  }
}

function describe({ tbsCertificate: held, signatureAlgorithm }: Certificate): DecodedCertificate {
  const { subjectPublicKeyInfo: key } = held
  const kind = KEYS[key.algorithm.algorithm] ?? key.algorithm.algorithm
  return {
    subject: distinguishedName(held.subject),
    issuer: distinguishedName(held.issuer),
    serial: hex(new Uint8Array(held.serialNumber)),
    notBefore: held.validity.notBefore.getTime().toISOString(),
    notAfter: held.validity.notAfter.getTime().toISOString(),
    keyKind: kind,
    keyBits:
      kind === 'rsa'
        ? modulusBits(new Uint8Array(key.subjectPublicKey))
        : kind === 'ec'
          ? (CURVES[hex(new Uint8Array(key.algorithm.parameters ?? new ArrayBuffer(0)))] ?? null)
          : null,
    signature: SIGNATURES[signatureAlgorithm.algorithm] ?? signatureAlgorithm.algorithm,
  }
}

/** As RFC 4514 writes it, marks escaped; the parts in the order in which they stand, as people read them. */
export function distinguishedName(name: Name): string {
  return [...name]
    .map((part: RelativeDistinguishedName) =>
      [...part]
        .map(({ type, value }) => `${NAMES[type] ?? type}=${value.toString().replace(/[,+"\\<>;]/g, '\\$&')}`)
        .join('+'),
    )
    .join(', ')
}

/** RSAPublicKey (RFC 8017 §A.1.1): a sequence whose first integer is the modulus. */
function modulusBits(der: Uint8Array): number | null {
  const sequence = lengthAt(der, 1)
  if (der[0] !== 0x30 || !sequence || der[sequence.next] !== 0x02) return null
  const modulus = lengthAt(der, sequence.next + 1)
  if (!modulus) return null
  let at = modulus.next
  while (der[at] === 0) at++
  const bytes = modulus.next + modulus.length - at
  return bytes <= 0 ? null : 8 * bytes - Math.clz32(der[at] ?? 0) + 24
}

function lengthAt(der: Uint8Array, at: number): { length: number; next: number } | null {
  const first = der[at]
  if (first === undefined) return null
  if (first < 0x80) return { length: first, next: at + 1 }
  let length = 0
  const count = first & 0x7f
  if (count > 4) return null
  for (let i = 1; i <= count; i++) length = length * 256 + (der[at + i] ?? 0)
  return { length, next: at + 1 + count }
}

function bytesOf(text: string): Uint8Array | null {
  const pem = /-----BEGIN CERTIFICATE-----([A-Za-z0-9+/=\s]+)-----END CERTIFICATE-----/.exec(text)?.[1]
  if (pem !== undefined) return Uint8Array.from(atob(pem.replace(/\s+/g, '')), (char) => char.charCodeAt(0))
  const digits = text.replace(/\s+/g, '')
  if (digits.length % 2 !== 0 || !/^[\da-fA-F]+$/.test(digits)) return null
  return Uint8Array.from(digits.match(/../g) ?? [], (pair) => parseInt(pair, 16))
}

function hex(bytes: Uint8Array): string {
  return [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('')
}
