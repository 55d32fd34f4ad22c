import { cpSync, mkdtempSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/**
 * A data folder that is made once and copied for whoever wants one like it: setting up a database takes longer than
 * most tests.
 * @param make fills the empty folder, and leaves nothing running in it
 */
export function template(name: string, make: (folder: string) => Promise<void>): () => Promise<string> {
  let made: Promise<string> | null = null
  const fill = async (): Promise<string> => {
    const folder = mkdtempSync(join(tmpdir(), `jurybox-${name}-template-`))
    process.once('exit', () => rmSync(folder, { recursive: true, force: true }))
    await make(folder)
    return folder
  }
  return async () => {
    made ??= fill()
    const source = await made
    const folder = mkdtempSync(join(tmpdir(), `jurybox-${name}-`))
    cpSync(source, folder, { recursive: true, preserveTimestamps: true, filter: (path) => !statSync(path).isSocket() })
    return folder
  }
}
