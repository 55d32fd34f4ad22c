/**
 * Time stamps of a manifest (RFC 3161): a request that is sent to an authority, and what its answer says. The answer is
 * checked against its own certificate; whether that authority is to be believed is for the reader to say, who is told
 * its name and the fingerprint of its certificate.
 */
import { p256, p384 } from '@noble/curves/nist.js'
import { sha256, sha384, sha512 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import { CertificateSet, ContentInfo, SignedData, SignerInfo } from '@peculiar/asn1-cms'
import { AsnConvert, OctetString } from '@peculiar/asn1-schema'
import { MessageImprint, TSTInfo, TimeStampReq, TimeStampReqVersion, TimeStampResp } from '@peculiar/asn1-tsp'
import { AlgorithmIdentifier, Certificate, ExtendedKeyUsage } from '@peculiar/asn1-x509'
import { sha256Hex } from '../syntax/index.ts'
import { distinguishedName } from '../model/index.ts'
import { isRsaSigned } from './rsa.ts'

const SHA256 = '2.16.840.1.101.3.4.2.1'
const HASHES: Readonly<Record<string, (bytes: Uint8Array) => Uint8Array>> = {
  [SHA256]: sha256,
  '2.16.840.1.101.3.4.2.2': sha384,
  '2.16.840.1.101.3.4.2.3': sha512,
}
/** Signatures of CMS (RFC 5754) with the hash that each names itself; `null`: the hash of the signer. */
const RSA: Readonly<Record<string, string | null>> = {
  '1.2.840.113549.1.1.1': null,
  '1.2.840.113549.1.1.11': SHA256,
  '1.2.840.113549.1.1.12': '2.16.840.1.101.3.4.2.2',
  '1.2.840.113549.1.1.13': '2.16.840.1.101.3.4.2.3',
}
const ECDSA: Readonly<Record<string, string>> = {
  '1.2.840.10045.4.3.2': SHA256,
  '1.2.840.10045.4.3.3': '2.16.840.1.101.3.4.2.2',
  '1.2.840.10045.4.3.4': '2.16.840.1.101.3.4.2.3',
}
/** Named curves as they stand encoded in the parameters of a key (RFC 5480 §2.1.1.1). */
const CURVES = { '06082a8648ce3d030107': p256, '06052b81040022': p384 } as const
const TST_INFO = '1.2.840.113549.1.9.16.1.4'
const CONTENT_TYPE = '1.2.840.113549.1.9.3'
const MESSAGE_DIGEST = '1.2.840.113549.1.9.4'
const EXTENDED_KEY_USAGE = '2.5.29.37'
const TIME_STAMPING = '1.3.6.1.5.5.7.3.8'

const der = (bytes: Uint8Array): ArrayBuffer => new Uint8Array(bytes).buffer
const isEqual = (a: Uint8Array, b: Uint8Array): boolean => bytesToHex(a) === bytesToHex(b)

/**
 * A request for a time stamp of a manifest, as DER.
 * @param nonce 1 to 20 bytes that nobody can guess, so that no older answer fits
 */
export function timestampRequest(manifest: Uint8Array, nonce: Uint8Array): Uint8Array {
  // A positive INTEGER (X.690 §8.3): the first bit would make it negative.
  const positive = Uint8Array.from([0x01, ...nonce])
  return new Uint8Array(
    AsnConvert.serialize(
      new TimeStampReq({
        version: TimeStampReqVersion.v1,
        messageImprint: new MessageImprint({
          hashAlgorithm: new AlgorithmIdentifier({ algorithm: SHA256, parameters: null }),
          hashedMessage: new OctetString(sha256(manifest)),
        }),
        nonce: der(positive),
        certReq: true,
      }),
    ),
  )
}

/** What a time stamp says, where it holds. */
export interface TimeStamp {
  /** RFC 3339, UTC. */
  readonly at: string
  /** Name of the authority, as its certificate says it. */
  readonly authority: string
  /** SHA-256 of its certificate, in hexadecimal digits. */
  readonly certificate: string
}

export type TimeStampFault =
  | 'unreadable'
  | 'refused'
  | 'other-manifest'
  | 'other-request'
  | 'no-certificate'
  | 'not-for-time-stamps'
  | 'certificate-expired'
  | 'unknown-algorithm'
  | 'signature-wrong'

/** What each fault means, for people. */
export const TIME_STAMP_WORDS: Readonly<Record<TimeStampFault, string>> = {
  unreadable: 'it is no answer of a time-stamp authority',
  refused: 'the authority refused the request',
  'other-manifest': 'it is of another manifest',
  'other-request': 'it answers another request',
  'no-certificate': 'it holds no certificate of who signed it',
  'not-for-time-stamps': 'its certificate is not one for time stamps',
  'certificate-expired': 'its certificate was not valid then',
  'unknown-algorithm': 'it uses an algorithm that is not known here',
  'signature-wrong': 'its signature does not hold',
}

/** Thrown within: whatever is wrong with an answer has a code. */
class Wrong extends Error {
  constructor(readonly code: TimeStampFault) {
    super(code)
  }
}

/**
 * Reads and checks the answer of an authority (RFC 3161 §2.4.2). Never throws for what it holds.
 * @param request the request, where it is known: then the answer has to be to it
 */
export function readTimestamp(
  response: Uint8Array,
  manifest: Uint8Array,
  request: Uint8Array | null,
): { readonly stamp: TimeStamp } | { readonly fault: TimeStampFault } {
  try {
    return { stamp: checked(response, manifest, request) }
  } catch (error) {
    // What the decoder refuses is no answer of an authority.
    return { fault: error instanceof Wrong ? error.code : 'unreadable' }
  }
}

function checked(response: Uint8Array, manifest: Uint8Array, request: Uint8Array | null): TimeStamp {
  const { status, timeStampToken } = AsnConvert.parse(der(response), TimeStampResp)
  if (![0, 1].includes(status.status) || !timeStampToken) throw new Wrong('refused')
  const token = AsnConvert.parse(AsnConvert.serialize(timeStampToken), ContentInfo)
  const { encapContentInfo, certificates, signerInfos } = AsnConvert.parse(token.content, SignedData)
  const content = encapContentInfo.eContent?.single?.buffer
  if (encapContentInfo.eContentType !== TST_INFO || !content) throw new Wrong('unreadable')
  const info = AsnConvert.parse(content, TSTInfo)
  const { hashAlgorithm, hashedMessage } = info.messageImprint
  const hash = HASHES[hashAlgorithm.algorithm]
  if (!hash) throw new Wrong('unknown-algorithm')
  if (!isEqual(new Uint8Array(hashedMessage.buffer), hash(manifest))) throw new Wrong('other-manifest')
  if (request && !isEqual(nonceOf(AsnConvert.parse(der(request), TimeStampReq)), nonceOf(info)))
    throw new Wrong('other-request')
  const [signer] = signerInfos
  if (!signer || signerInfos.length !== 1) throw new Wrong('unreadable')
  const certificate = certificateOf(signer, certificates)
  checkCertificate(certificate, info.genTime)
  checkSignature(signer, certificate, new Uint8Array(content))
  return {
    at: info.genTime.toISOString(),
    authority: distinguishedName(certificate.tbsCertificate.subject),
    certificate: sha256Hex(new Uint8Array(AsnConvert.serialize(certificate))),
  }
}

const nonceOf = ({ nonce }: { readonly nonce?: ArrayBuffer }): Uint8Array => new Uint8Array(nonce ?? new ArrayBuffer(0))

function certificateOf({ sid }: SignerInfo, certificates: CertificateSet | undefined): Certificate {
  const wanted = sid.issuerAndSerialNumber
  const all = (certificates ?? []).flatMap(({ certificate }) => (certificate ? [certificate] : []))
  const found = wanted
    ? all.find(
        ({ tbsCertificate: { serialNumber, issuer } }) =>
          isEqual(new Uint8Array(serialNumber), new Uint8Array(wanted.serialNumber)) &&
          isEqual(new Uint8Array(AsnConvert.serialize(issuer)), new Uint8Array(AsnConvert.serialize(wanted.issuer))),
      )
    : undefined
  if (!found) throw new Wrong('no-certificate')
  return found
}

/** It is for time stamps and nothing else (RFC 3161 §2.3), and was valid when it signed. */
function checkCertificate({ tbsCertificate: { extensions, validity } }: Certificate, at: Date): void {
  const usage = extensions?.find(({ extnID }) => extnID === EXTENDED_KEY_USAGE)
  const uses = usage ? [...AsnConvert.parse(usage.extnValue.buffer, ExtendedKeyUsage)] : []
  if (usage?.critical !== true || uses.length !== 1 || uses[0] !== TIME_STAMPING) throw new Wrong('not-for-time-stamps')
  if (at < validity.notBefore.getTime() || at > validity.notAfter.getTime()) throw new Wrong('certificate-expired')
}

/** The signature is over the attributes, and they hold the hash of the content (RFC 5652 §5.4). */
function checkSignature(signer: SignerInfo, certificate: Certificate, content: Uint8Array): void {
  const hash = HASHES[signer.digestAlgorithm.algorithm]
  if (!hash) throw new Wrong('unknown-algorithm')
  const valueOf = (type: string): Uint8Array => {
    const [value] = signer.signedAttrs?.find(({ attrType }) => attrType === type)?.attrValues ?? []
    if (!value) throw new Wrong('signature-wrong')
    return new Uint8Array(value)
  }
  const digest = new Uint8Array(AsnConvert.parse(der(valueOf(MESSAGE_DIGEST)), OctetString).buffer)
  if (!isEqual(digest, hash(content)) || valueOf(CONTENT_TYPE).length === 0) throw new Wrong('signature-wrong')
  const signed = setOf((signer.signedAttrs ?? []).map((one) => new Uint8Array(AsnConvert.serialize(one))))
  if (!isSignedBy(signed, signer, certificate)) throw new Wrong('signature-wrong')
}

/** A SET OF as DER: its members in the order of their bytes (X.690 §11.6). */
function setOf(members: readonly Uint8Array[]): Uint8Array {
  const sorted = [...members].sort((a, b) => (bytesToHex(a) < bytesToHex(b) ? -1 : 1))
  const content = sorted.flatMap((one) => [...one])
  const length = content.length
  const head = length < 0x80 ? [length] : length < 0x100 ? [0x81, length] : [0x82, length >> 8, length & 0xff]
  return Uint8Array.from([0x31, ...head, ...content])
}

function isSignedBy(message: Uint8Array, signer: SignerInfo, { tbsCertificate }: Certificate): boolean {
  const { algorithm } = signer.signatureAlgorithm
  const signature = new Uint8Array(signer.signature.buffer)
  const { algorithm: kind, subjectPublicKey } = tbsCertificate.subjectPublicKeyInfo
  if (algorithm in RSA) {
    const name = RSA[algorithm] ?? signer.digestAlgorithm.algorithm
    const hash = HASHES[name]
    if (!hash) throw new Wrong('unknown-algorithm')
    return isRsaSigned({ hash: name, digest: hash(message) }, signature, new Uint8Array(subjectPublicKey))
  }
  const hash = HASHES[ECDSA[algorithm] ?? '']
  const curve = kind.parameters ? CURVES[bytesToHex(new Uint8Array(kind.parameters)) as keyof typeof CURVES] : undefined
  if (!hash || !curve) throw new Wrong('unknown-algorithm')
  const options = { prehash: false, format: 'der', lowS: false } as const
  return curve.verify(signature, hash(message), new Uint8Array(subjectPublicKey), options)
}
