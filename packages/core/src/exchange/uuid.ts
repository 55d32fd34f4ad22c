import { sha1 } from '@noble/hashes/legacy.js'
import { bytesToHex, hexToBytes } from '@noble/hashes/utils.js'

/** Name space for addresses (RFC 9562 §6.6). */
export const URL_SPACE = '6ba7b811-9dad-11d1-80b4-00c04fd430c8'
export const NAMESPACE = 'https://jurybox.example/ns'

/** UUID version 5 (RFC 9562 §5.5): the same name in the same space is the same identifier, for ever. */
export function uuid5(space: string, name: string): string {
  const bytes = sha1(Uint8Array.from([...hexToBytes(space.replaceAll('-', '')), ...new TextEncoder().encode(name)]))
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x50
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80
  const hex = bytesToHex(bytes.subarray(0, 16))
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-')
}

const OURS = uuid5(URL_SPACE, NAMESPACE)

/** The identifier of a thing by what names it. */
export function idOf(...names: readonly string[]): string {
  return uuid5(OURS, JSON.stringify(names))
}

/** A token of OSCAL: letters, digits, `.`, `-` and `_`, beginning with a letter. */
export function token(text: string): string {
  const plain = text.replace(/[^\p{L}\p{N}._-]/gu, '_')
  return /^[\p{L}_]/u.test(plain) ? plain : `_${plain}`
}
