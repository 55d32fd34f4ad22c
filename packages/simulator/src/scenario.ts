import { existsSync, readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { readSnapshot, type SnapshotFile } from '@jurybox/core'
import { parse } from 'yaml'
import { z } from 'zod'

/** What goes wrong with a device, for as long as it is so. */
export const weatherSchema = z.strictObject({
  /** Milliseconds before each part of an answer. */
  slow: z.int().min(0).optional(),
  /** Closes the connection after so many characters of one answer. */
  dropAfter: z.int().min(0).optional(),
  /** Closes each connection before a word is said. */
  refuses: z.boolean().optional(),
  /** Lets nobody in, whatever the password. */
  locked: z.boolean().optional(),
  /** Puts characters that belong to nothing between those of an answer. */
  garbles: z.boolean().optional(),
  /** Never comes to the end of a listing. */
  endless: z.boolean().optional(),
  /** Speaks only algorithms that RFC 9142 deprecates. */
  old: z.boolean().optional(),
})
export type Weather = z.infer<typeof weatherSchema>

export const accountSchema = z.strictObject({
  user: z.string().min(1),
  password: z.string().min(1),
  privileged: z.string().optional(),
})
export type Account = z.infer<typeof accountSchema>

/** A device as its folder tells of it. */
export interface DeviceFolder {
  readonly name: string
  readonly dialect: string
  readonly site: string
  /** What it is, and where it is managed; null where the folder does not say. */
  readonly model: string | null
  readonly os: string | null
  readonly version: string | null
  readonly managementAddress: string | null
  /** Whether it came after the others were captured: what they printed then does not tell of it. */
  readonly untold?: boolean
  /** Texts by kind of record. */
  readonly records: ReadonlyMap<string, string>
}

/** The devices of a snapshot folder. @throws Error that names the folder where it holds none */
export function devicesIn(folder: string): DeviceFolder[] {
  if (!existsSync(join(folder, 'devices')))
    throw new Error(`${folder} is no snapshot folder: it has no folder "devices"`)
  const files: SnapshotFile[] = readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name))
    .sort()
    .map((path) => ({ path: path.slice(folder.length).replace(/^[/\\]+/, ''), bytes: readFileSync(path) }))
  const { devices } = readSnapshot(files)
  if (devices.length === 0) throw new Error(`${folder} holds no device that can be read`)
  return devices.map(({ name, dialect, facts, records }) => ({
    name,
    dialect: dialect.id,
    site: facts.site ?? '',
    model: facts.model ?? null,
    os: facts.os ?? null,
    version: facts.version ?? null,
    managementAddress: facts.managementAddress ?? null,
    // A gateway's rules are its configuration here, and a listing of their own on the device.
    records: new Map(
      records.map(({ kind, text }) => [kind === 'config' ? dialect.records.configuration : kind, text] as const),
    ),
  }))
}

/** One thing that happens in the course of a day: somebody types, or the weather changes. */
const stepSchema = z.strictObject({
  title: z.string().min(1),
  device: z.string().min(1),
  by: z.string().min(1).optional(),
  /** Lines as they are typed in configuration mode. */
  types: z.array(z.string()).optional(),
  /** Whether it is saved for the next start as well. */
  saves: z.boolean().default(false),
  weather: weatherSchema.optional(),
  /** It is replaced: from now on it has another host key. */
  newKey: z.boolean().default(false),
})
export type DayStep = z.infer<typeof stepSchema>

/**
 * `simulator.yaml` beside the devices: who may log in, what goes wrong with whom, and what happens one after the other.
 */
const settingsSchema = z.strictObject({
  accounts: z.array(accountSchema).min(1),
  weather: z.record(z.string(), weatherSchema).default({}),
  day: z.array(stepSchema).default([]),
})

export function settingsIn(folder: string): z.infer<typeof settingsSchema> | null {
  const file = join(folder, 'simulator.yaml')
  return existsSync(file) ? settingsSchema.parse(parse(readFileSync(file, 'utf8'))) : null
}
