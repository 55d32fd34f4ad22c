/** Signatures by RSASSA-PKCS1-v1_5 (RFC 8017 §8.2.2), verified in Node.js and in a browser alike. */
import { bytesToHex, hexToBytes } from '@noble/hashes/utils.js'
import {
  AsnConvert,
  AsnIntegerBigIntConverter,
  AsnProp,
  AsnPropTypes,
  AsnType,
  AsnTypeTypes,
} from '@peculiar/asn1-schema'

/** RFC 8017 §A.1.1. */
class RsaPublicKey {
  modulus = 0n
  publicExponent = 0n
}
AsnType({ type: AsnTypeTypes.Sequence })(RsaPublicKey)
for (const name of ['modulus', 'publicExponent'])
  AsnProp({ type: AsnPropTypes.Integer, converter: AsnIntegerBigIntConverter })(RsaPublicKey.prototype, name)

/** DigestInfo up to the hash itself (RFC 8017 §9.2, note 1), by the object identifier of the hash. */
const DIGEST_INFO: Readonly<Record<string, string>> = {
  '2.16.840.1.101.3.4.2.1': '3031300d060960864801650304020105000420',
  '2.16.840.1.101.3.4.2.2': '3041300d060960864801650304020205000430',
  '2.16.840.1.101.3.4.2.3': '3051300d060960864801650304020305000440',
}
/** Longest modulus in bytes: 8,192 bits. */
const LONGEST = 1024

/** @param publicKey RSAPublicKey as DER */
export function isRsaSigned(
  { hash, digest }: { readonly hash: string; readonly digest: Uint8Array },
  signature: Uint8Array,
  publicKey: Uint8Array,
): boolean {
  const { modulus, publicExponent } = AsnConvert.parse(publicKey, RsaPublicKey)
  const length = Math.ceil(modulus.toString(16).length / 2)
  const prefix = DIGEST_INFO[hash]
  if (prefix === undefined || signature.length !== length || length > LONGEST || publicExponent > 0xffffffffn)
    return false
  const info = Uint8Array.from([...hexToBytes(prefix), ...digest])
  if (length < info.length + 11) return false
  const wanted = `0001${'ff'.repeat(length - info.length - 3)}00${bytesToHex(info)}`
  const number = BigInt(`0x${bytesToHex(signature)}`)
  if (number >= modulus) return false
  return (
    power(number, publicExponent, modulus)
      .toString(16)
      .padStart(2 * length, '0') === wanted
  )
}

function power(base: bigint, exponent: bigint, modulus: bigint): bigint {
  let result = 1n
  for (let [factor, left] = [base % modulus, exponent]; left > 0n; left >>= 1n) {
    if (left & 1n) result = (result * factor) % modulus
    factor = (factor * factor) % modulus
  }
  return result
}
