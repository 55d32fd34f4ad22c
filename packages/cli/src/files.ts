import { readFileSync, readdirSync, statSync } from 'node:fs'
import { basename, join, relative } from 'node:path'
import type { SnapshotFile } from '@jurybox/core'
import type { Refusal } from '@jurybox/core/snapshot'

/** Files named on the command line, folders with all that is in them. Paths stay relative to what was named. */
export function filesAt(paths: readonly string[]): { files: SnapshotFile[]; refused: Refusal[] } {
  const files: SnapshotFile[] = []
  const refused: Refusal[] = []
  const take = (path: string, name: string): void => {
    try {
      files.push({ path: name, bytes: new Uint8Array(readFileSync(path)) })
    } catch (error) {
      refused.push({ path: name, reason: `cannot be read: ${reasonOf(error)}` })
    }
  }
  for (const path of paths) {
    try {
      if (!statSync(path).isDirectory()) {
        // A single file is taken for a configuration whatever its ending, unless its name says zip.
        const name = basename(path)
        take(path, /\.(?:cfg|conf|txt|zip|yaml)$/i.test(name) ? name : `${name}.txt`)
        continue
      }
      for (const entry of readdirSync(path, { recursive: true, withFileTypes: true })) {
        if (entry.isFile()) take(join(entry.parentPath, entry.name), relative(path, join(entry.parentPath, entry.name)))
      }
    } catch (error) {
      refused.push({ path, reason: `cannot be read: ${reasonOf(error)}` })
    }
  }
  return { files, refused }
}

function reasonOf(error: unknown): string {
  return error instanceof Error && 'code' in error ? String(error.code) : String(error)
}
