import { existsSync, readFileSync, rmSync, writeFileSync, mkdirSync } from 'node:fs'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { z } from 'zod'

/** Who works on a data folder. */
export interface Owner {
  readonly pid: number
  readonly host: string
  /** What it runs: `start`, `demo`, `rotate-key`, … */
  readonly command: string
  /** RFC 3339. */
  readonly since: string
  /** When the process began, in ticks since the machine did (proc(5), field 22); null where that is not known. */
  readonly began: string | null
}

const ownerSchema = z.object({
  pid: z.int().positive(),
  host: z.string(),
  command: z.string(),
  since: z.string(),
  began: z.string().nullable(),
})

/** A data folder that another process works on; nothing was touched. */
export class FolderInUse extends Error {
  constructor(
    readonly folder: string,
    readonly owner: Owner,
  ) {
    const { pid, host, command, since } = owner
    const elsewhere = host !== hostname() ? ` If that machine no longer runs it, delete ${lockFile(folder)}.` : ''
    super(
      `The data folder ${folder} is in use: process ${pid} on ${host} runs “${command}” there since ${since}.` +
        ` Stop it first, or choose another folder with JURYBOX_DATA.${elsewhere}`,
    )
  }
}

const lockFile = (folder: string): string => join(folder, 'lock')

/**
 * Makes this process the only one that works on a data folder.
 * @returns what gives the folder free again
 * @throws FolderInUse where a process that lives has it
 */
export function claimFolder(folder: string, command: string): () => void {
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  const file = lockFile(folder)
  const own: Owner = {
    pid: process.pid,
    host: hostname(),
    command,
    since: new Date().toISOString(),
    began: beganAt(process.pid),
  }
  if (!written(file, own)) {
    const other = ownerIn(file)
    if (other && lives(other)) throw new FolderInUse(folder, other)
    // Its owner was killed. Of two processes that find out at once, one writes the new lock.
    rmSync(file, { force: true })
    if (!written(file, own)) throw new FolderInUse(folder, ownerIn(file) ?? own)
  }
  return () => {
    if (ownerIn(file)?.since === own.since) rmSync(file, { force: true })
  }
}

/** Who works on a data folder at present, on this machine or elsewhere; null where nobody does. */
export function ownerOf(folder: string): Owner | null {
  const owner = ownerIn(lockFile(folder))
  return owner && lives(owner) ? owner : null
}

function written(file: string, owner: Owner): boolean {
  try {
    writeFileSync(file, `${JSON.stringify(owner)}\n`, { flag: 'wx', mode: 0o600 })
    return true
  } catch (error) {
    if (error instanceof Error && 'code' in error && error.code === 'EEXIST') return false
    throw error
  }
}

/** Null for a lock that was cut short while it was written. */
function ownerIn(file: string): Owner | null {
  try {
    return ownerSchema.parse(JSON.parse(readFileSync(file, 'utf8')))
  } catch {
    return null
  }
}

/** Of another machine nothing is known: it counts as alive. A number that went to another process does not. */
function lives({ pid, host, began }: Owner): boolean {
  if (host !== hostname()) return true
  if (existsSync('/proc/self/stat')) return beganAt(pid) !== null && (began === null || beganAt(pid) === began)
  try {
    process.kill(pid, 0)
    return true
  } catch (error) {
    return error instanceof Error && 'code' in error && error.code === 'EPERM'
  }
}

function beganAt(pid: number): string | null {
  try {
    // The second field, in parentheses, may hold blanks of its own.
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8')
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? null
  } catch {
    return null
  }
}
