import { Unzip, UnzipInflate, UnzipPassThrough } from 'fflate'
import { LIMITS } from './limits.ts'
import type { Refusal, SnapshotFile } from './file.ts'

/**
 * Unpacks a zip archive in memory. What an archive says of its own sizes is not believed: bytes are counted as they
 * come out, and an entry or archive beyond the limits is refused while it is being unpacked.
 */
export function unzip(bytes: Uint8Array, archive: string): { files: SnapshotFile[]; refused: Refusal[] } {
  const files: SnapshotFile[] = []
  const refused: Refusal[] = []
  let total = 0
  let entries = 0
  let ended = false
  const reader = new Unzip((entry) => {
    if (ended || entry.name.endsWith('/')) return
    if (++entries > LIMITS.files) {
      ended = true
      refused.push({ path: archive, reason: `the archive holds more than ${LIMITS.files} files` })
      return
    }
    const chunks: Uint8Array[] = []
    let size = 0
    let over = false
    entry.ondata = (error, chunk, final) => {
      if (over) return
      if (error) {
        over = true
        refused.push({ path: `${archive}/${entry.name}`, reason: `the entry cannot be unpacked: ${error.message}` })
        return
      }
      size += chunk.length
      total += chunk.length
      if (size > LIMITS.fileBytes || total > LIMITS.totalBytes) {
        over = true
        if (total > LIMITS.totalBytes) ended = true
        refused.push({
          path: `${archive}/${entry.name}`,
          reason:
            size > LIMITS.fileBytes
              ? `unpacks to more than ${LIMITS.fileBytes} bytes`
              : `the archive unpacks to more than ${LIMITS.totalBytes} bytes`,
        })
        entry.terminate()
        return
      }
      chunks.push(chunk)
      if (final) files.push({ path: entry.name, bytes: joined(chunks, size) })
    }
    entry.start()
  })
  reader.register(UnzipInflate)
  reader.register(UnzipPassThrough)
  try {
    // Small steps, so that a bomb is noticed after the first of them that overflows.
    for (let from = 0; from < bytes.length && !ended; from += 65_536)
      reader.push(bytes.subarray(from, from + 65_536), from + 65_536 >= bytes.length)
  } catch (error) {
    refused.push({
      path: archive,
      reason: `the archive cannot be read: ${error instanceof Error ? error.message : String(error)}`,
    })
  }
  if (files.length === 0 && refused.length === 0) refused.push({ path: archive, reason: 'the archive holds no files' })
  return { files, refused }
}

function joined(chunks: readonly Uint8Array[], size: number): Uint8Array {
  const all = new Uint8Array(size)
  let at = 0
  for (const chunk of chunks) {
    all.set(chunk, at)
    at += chunk.length
  }
  return all
}
