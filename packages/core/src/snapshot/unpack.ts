import type { Refusal, SnapshotFile } from './file.ts'
import { LIMITS, plainPath } from './limits.ts'
import { unzip } from './unzip.ts'

export function unpacked(input: readonly SnapshotFile[], refused: Refusal[]): SnapshotFile[] {
  return input.flatMap((file) => {
    if (!/\.zip$/i.test(file.path)) return [file]
    const zip = unzip(file.bytes, file.path)
    refused.push(...zip.refused)
    return zip.files
  })
}

export function plainFiles(files: readonly SnapshotFile[], refused: Refusal[]): SnapshotFile[] {
  const taken = new Map<string, SnapshotFile>()
  let total = 0
  for (const file of files) {
    const plain = plainPath(file.path)
    const name = plain.ok ? (plain.path.split('/').at(-1) ?? '') : ''
    if (!plain.ok) refused.push({ path: file.path, reason: plain.reason })
    else if (name.startsWith('.') || plain.path.includes('__MACOSX/')) continue
    else if (file.bytes.length > LIMITS.fileBytes)
      refused.push({ path: plain.path, reason: `larger than ${LIMITS.fileBytes} bytes` })
    else if (taken.size >= LIMITS.files || (total += file.bytes.length) > LIMITS.totalBytes)
      refused.push({ path: plain.path, reason: 'beyond the number of files or bytes that one snapshot may hold' })
    else if (taken.has(plain.path)) refused.push({ path: plain.path, reason: 'a file of this path was taken already' })
    else taken.set(plain.path, { path: plain.path, bytes: file.bytes })
  }
  // Facts first: they may name the dialect of what follows.
  return [...taken.values()].sort(
    (a, b) => Number(b.path.endsWith('.yaml')) - Number(a.path.endsWith('.yaml')) || (a.path < b.path ? -1 : 1),
  )
}

/** The folder that holds `snapshot.yaml` or `devices/`, with its slash; null where the files are bare. */
export function folderRoot(files: readonly SnapshotFile[]): string | null {
  for (const { path } of files) {
    const found = /^(.*?)(?:snapshot\.yaml$|devices\/[^/]+\/)/.exec(path)
    if (found && (found[1] === '' || (found[1] ?? '').endsWith('/'))) return found[1] ?? ''
  }
  return null
}
