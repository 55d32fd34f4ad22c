import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { commandSets, netconfCommands } from '@jurybox/core/dialects'
import { deviceFolder } from '@jurybox/core/snapshot'
import { LIMITS, collectDevice, type Credential, type Target } from '@jurybox/collector'
import { parse, stringify } from 'yaml'
import { z } from 'zod'
import type { Output } from './call.ts'

export const COLLECT_USAGE = `jurybox collect INVENTORY --out FOLDER
  Fetches records over SSH from the devices of an inventory (YAML) and writes them as a snapshot folder.
  INVENTORY holds  accounts: [{ user, passwordFrom, privilegedFrom }]  and  devices: [{ name, dialect, address, port, old,
  hostKey, netconfPort, snmpPort }];
  passwordFrom and privilegedFrom name variables of the environment, so that no secret stands in a file.
  Exit status: 0 all collected, 1 some missing, 2 bad usage.`

const inventorySchema = z.strictObject({
  accounts: z
    .array(
      z.strictObject({
        user: z.string().min(1),
        passwordFrom: z.string().min(1),
        privilegedFrom: z.string().optional(),
      }),
    )
    .min(1),
  devices: z
    .array(
      z.strictObject({
        name: z.string().regex(/^[\w.-]+$/),
        dialect: z.string(),
        address: z.string().min(1),
        port: z.int().min(1).max(65535).default(22),
        old: z.boolean().default(false),
        hostKey: z.string().nullable().default(null),
        netconfPort: z.int().min(1).max(65535).optional(),
        snmpPort: z.int().min(1).max(65535).optional(),
      }),
    )
    .min(1),
})

const AT_ONCE = 20

/** @returns the exit status */
export async function collectCommand(
  args: readonly string[],
  { stdout, stderr }: Output,
  environment: NodeJS.ProcessEnv = process.env,
  limits = LIMITS,
): Promise<number> {
  const at = args.indexOf('--out')
  const out = at < 0 ? undefined : args[at + 1]
  const [file, ...others] = args.filter((_, i) => at < 0 || (i !== at && i !== at + 1))
  if (!file || !out || others.length > 0) {
    stderr(`${COLLECT_USAGE}\n`)
    return 2
  }
  let targets: Target[]
  let credentials: Credential[]
  try {
    const inventory = inventorySchema.parse(parse(readFileSync(file, 'utf8')))
    const known = [...commandSets.keys()].join(', ')
    targets = inventory.devices.map(({ dialect, netconfPort, ...device }) => {
      const set = commandSets.get(dialect)
      if (!set)
        throw new Error(`"${device.name}": there are no commands for the dialect "${dialect}" (there are ${known})`)
      return {
        ...device,
        set,
        ...(netconfPort !== undefined && netconfCommands
          ? { netconf: { port: netconfPort, set: netconfCommands } }
          : {}),
      }
    })
    credentials = inventory.accounts.map(({ user, passwordFrom, privilegedFrom }, i) => ({
      id: String(i + 1),
      user,
      password: told(environment, passwordFrom),
      ...(privilegedFrom === undefined ? {} : { privileged: told(environment, privilegedFrom) }),
    }))
  } catch (error) {
    const words =
      error instanceof z.ZodError ? z.prettifyError(error) : error instanceof Error ? error.message : String(error)
    stderr(`jurybox collect: ${file}: ${words}\n`)
    return 2
  }
  const began = new Date().toISOString()
  let missing = 0
  let next = 0
  const lane = async (): Promise<void> => {
    for (let target = targets[next++]; target; target = targets[next++]) {
      const result = await collectDevice(target, credentials, limits)
      if (!result.ok) {
        missing++
        stderr(`${target.name}: not collected (${result.step}): ${result.reason}\n`)
        continue
      }
      const { folder, named } = deviceFolder(target.name)
      const keep = (path: string, text: string): void => {
        const whole = join(out, folder, path)
        mkdirSync(dirname(whole), { recursive: true })
        writeFileSync(whole, text)
      }
      keep('device.yaml', stringify({ ...named, dialect: target.set.dialect }))
      for (const { kind, form, text } of result.records) keep(`${kind}.${form === 'json' ? 'json' : 'txt'}`, text)
      for (const reason of result.without) stderr(`${target.name}: ${reason}\n`)
      stdout(`${target.name}: ${result.records.length} records, host key ${result.hostKey}\n`)
    }
  }
  await Promise.all(Array.from({ length: Math.min(AT_ONCE, targets.length) }, lane))
  if (missing < targets.length)
    writeFileSync(
      join(out, 'snapshot.yaml'),
      stringify({
        title: `Collected ${began.slice(0, 16).replace('T', ' ')}`,
        takenAt: began,
        note: `Collected over SSH from ${targets.length - missing} of ${targets.length} devices.`,
      }),
    )
  return missing === 0 ? 0 : 1
}

/** @throws Error where the variable is not set */
function told(environment: NodeJS.ProcessEnv, name: string): string {
  const secret = environment[name]
  if (secret === undefined || secret === '') throw new Error(`the variable ${name} is not set`)
  return secret
}
