/** Bytes to text and back without loss, and the refusal of what is no text at all. */
export type Encoding = 'utf-8' | 'latin-1' | 'utf-16le'

export type TextSource = { ok: true; text: string; encoding: Encoding } | { ok: false; reason: string }

const MAGIC: [string, readonly number[]][] = [
  ['a JPEG image', [0xff, 0xd8, 0xff]],
  ['a PNG image', [0x89, 0x50, 0x4e, 0x47]],
  ['a GIF image', [0x47, 0x49, 0x46, 0x38]],
  ['a PDF document', [0x25, 0x50, 0x44, 0x46]],
  ['a zip archive', [0x50, 0x4b, 0x03, 0x04]],
  ['a gzip archive', [0x1f, 0x8b]],
  ['a program file', [0x7f, 0x45, 0x4c, 0x46]],
]

/**
 * Decodes the bytes of a file. UTF-8 where it is valid, else Latin-1, which every byte has a place in; so that
 * `encodeText(decodeText(bytes))` is `bytes` for whatever is accepted.
 */
export function decodeText(bytes: Uint8Array): TextSource {
  if (bytes.length === 0) return { ok: false, reason: 'the file is empty' }
  for (const [what, magic] of MAGIC) {
    if (magic.every((byte, i) => bytes[i] === byte)) return { ok: false, reason: `this is ${what}, not a text listing` }
  }
  if (bytes[0] === 0xff && bytes[1] === 0xfe && bytes.length % 2 === 0) {
    const text = new TextDecoder('utf-16le', { ignoreBOM: true }).decode(bytes)
    if (sameBytes(encodeText(text, 'utf-16le'), bytes)) return { ok: true, text, encoding: 'utf-16le' }
  }
  if (bytes.includes(0)) return { ok: false, reason: 'the file holds NUL bytes: binary data, not a text listing' }
  try {
    return {
      ok: true,
      text: new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes),
      encoding: 'utf-8',
    }
  } catch {
    // Not UTF-8: older devices list accented descriptions in Latin-1. The eight-bit reading keeps every byte.
    const parts: string[] = []
    for (let i = 0; i < bytes.length; i += 8192) parts.push(String.fromCharCode(...bytes.subarray(i, i + 8192)))
    return { ok: true, text: parts.join(''), encoding: 'latin-1' }
  }
}

/** The bytes that `decodeText` was given. */
export function encodeText(text: string, encoding: Encoding): Uint8Array {
  if (encoding === 'utf-8') return new TextEncoder().encode(text)
  const wide = encoding === 'utf-16le'
  const bytes = new Uint8Array(wide ? text.length * 2 : text.length)
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i)
    if (wide) {
      bytes[2 * i] = code & 0xff
      bytes[2 * i + 1] = code >> 8
    } else bytes[i] = code
  }
  return bytes
}

function sameBytes(a: Uint8Array, b: Uint8Array): boolean {
  return a.length === b.length && a.every((byte, i) => byte === b[i])
}
