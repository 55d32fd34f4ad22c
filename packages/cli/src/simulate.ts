import { existsSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { deskOf, simulate } from '@jurybox/simulator'
import type { Output } from './call.ts'

export const SIMULATE_USAGE = `jurybox simulate FOLDER
  Starts every device of a snapshot folder on loopback, each with SSH on a port of its own, and a desk that takes in mail and
  tickets, until it is interrupted. Of a folder of snapshots the last by name is taken. A file simulator.yaml in the folder says
  who may log in, what goes wrong with whom, and what happens in the course of the day.`

/** @returns the exit status, once it was interrupted */
export async function simulateCommand(args: readonly string[], { stdout, stderr }: Output): Promise<number> {
  const [folder, ...others] = args
  if (!folder || others.length > 0) {
    stderr(`${SIMULATE_USAGE}\n`)
    return 2
  }
  try {
    const network = await simulate(snapshotIn(folder), { settings: folder })
    const desk = deskOf(network)
    await desk.listen()
    for (const { name, dialect, port } of network.devices) stdout(`${name},${dialect},127.0.0.1,${port}\n`)
    stderr(`The desk: ${desk.address} takes tickets at /tickets, mail on port ${desk.smtpPort}.\n`)
    stderr(`Log in as ${network.accounts.map(({ user }) => user).join(' or ')}. Ctrl-C stops it.\n`)
    await new Promise<void>((resolve) => {
      process.once('SIGINT', () => resolve())
      process.once('SIGTERM', () => resolve())
    })
    await Promise.all([network.stop(), desk.stop()])
    return 0
  } catch (error) {
    stderr(`jurybox simulate: ${error instanceof Error ? error.message : String(error)}\n`)
    return 2
  }
}

/** The folder itself, or the last by name of those in it that hold devices. */
function snapshotIn(folder: string): string {
  if (!existsSync(folder) || existsSync(join(folder, 'devices'))) return folder
  const within = readdirSync(folder)
    .filter((name) => existsSync(join(folder, name, 'devices')))
    .sort()
  return within.length > 0 ? join(folder, within.at(-1) ?? '') : folder
}
