/**
 * The container of a pack: a zip whose bytes follow from the files alone (APPNOTE.TXT 6.3: entries stored in the order
 * of their paths, no times, no extra fields, no comment). So no bit of it can change without being seen.
 */
const LOCAL = 0x04034b50
const CENTRAL = 0x02014b50
const END = 0x06054b50
/** Names are UTF-8 (bit 11). */
const FLAGS = 0x0800
/** The first day that a zip knows: 1980-01-01. */
const DATE = 0x0021
const MOST_BYTES = 2 ** 32 - 1
const MOST_FILES = 2 ** 16 - 1

/** @throws RangeError where there is more than a plain zip can hold */
export function writePack(files: ReadonlyMap<string, Uint8Array>): Uint8Array {
  const entries = [...files]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([path, bytes]) => ({ name: new TextEncoder().encode(path), bytes, crc: crc32(bytes) }))
  const local = entries.reduce((sum, { name, bytes }) => sum + 30 + name.length + bytes.length, 0)
  const central = entries.reduce((sum, { name }) => sum + 46 + name.length, 0)
  if (entries.length > MOST_FILES || local + central + 22 > MOST_BYTES)
    throw new RangeError('a pack holds less than 4 GiB and 65,536 files')
  const out = new Uint8Array(local + central + 22)
  const view = new DataView(out.buffer)
  let at = 0
  const u16 = (value: number): void => {
    view.setUint16(at, value, true)
    at += 2
  }
  const u32 = (value: number): void => {
    view.setUint32(at, value, true)
    at += 4
  }
  const raw = (bytes: Uint8Array): void => {
    out.set(bytes, at)
    at += bytes.length
  }
  const common = ({ name, bytes, crc }: (typeof entries)[number]): void => {
    u16(20)
    u16(FLAGS)
    u16(0)
    u16(0)
    u16(DATE)
    u32(crc)
    u32(bytes.length)
    u32(bytes.length)
    u16(name.length)
    u16(0)
  }
  const places = entries.map((entry) => {
    const place = at
    u32(LOCAL)
    common(entry)
    raw(entry.name)
    raw(entry.bytes)
    return place
  })
  for (const [i, entry] of entries.entries()) {
    u32(CENTRAL)
    u16(20)
    common(entry)
    u16(0)
    u16(0)
    u16(0)
    u32(0)
    u32(places[i] ?? 0)
    raw(entry.name)
  }
  u32(END)
  u16(0)
  u16(0)
  u16(entries.length)
  u16(entries.length)
  u32(central)
  u32(local)
  u16(0)
  return out
}

/** The files of a pack; null where its bytes are not those that its files make. */
export function readPack(bytes: Uint8Array): Map<string, Uint8Array> | null {
  const files = new Map<string, Uint8Array>()
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  let at = 0
  while (at + 30 <= bytes.length && view.getUint32(at, true) === LOCAL) {
    const [size, named] = [view.getUint32(at + 18, true), view.getUint16(at + 26, true)]
    const from = at + 30 + named
    if (from + size > bytes.length) return null
    files.set(new TextDecoder().decode(bytes.subarray(at + 30, from)), bytes.subarray(from, from + size))
    at = from + size
  }
  const written = files.size > 0 && files.size <= MOST_FILES ? writePack(files) : null
  return written && isEqual(written, bytes) ? files : null
}

function isEqual(a: Uint8Array, b: Uint8Array): boolean {
  return a.length === b.length && a.every((one, i) => one === b[i])
}

const TABLE = Uint32Array.from({ length: 256 }, (_, n) => {
  let value = n
  for (let k = 0; k < 8; k++) value = value & 1 ? 0xedb88320 ^ (value >>> 1) : value >>> 1
  return value >>> 0
})

/** CRC-32 of ISO 3309, as zips have it. */
function crc32(bytes: Uint8Array): number {
  let crc = 0xffffffff
  for (const byte of bytes) crc = (TABLE[(crc ^ byte) & 0xff] ?? 0) ^ (crc >>> 8)
  return (crc ^ 0xffffffff) >>> 0
}
