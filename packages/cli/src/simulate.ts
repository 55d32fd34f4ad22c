import { simulate } from '@jurybox/simulator'
import type { Output } from './call.ts'

export const SIMULATE_USAGE = `jurybox simulate FOLDER
  Starts every device of a snapshot folder on loopback, each with SSH on a port of its own, until it is interrupted.
  A file simulator.yaml in the folder says who may log in, and what goes wrong with whom.`

/** @returns the exit status, once it was interrupted */
export async function simulateCommand(args: readonly string[], { stdout, stderr }: Output): Promise<number> {
  const [folder, ...others] = args
  if (!folder || others.length > 0) {
    stderr(`${SIMULATE_USAGE}\n`)
    return 2
  }
  try {
    const network = await simulate(folder)
    for (const { name, dialect, port } of network.devices) stdout(`${name},${dialect},127.0.0.1,${port}\n`)
    stderr(`Log in as ${network.accounts.map(({ user }) => user).join(' or ')}. Ctrl-C stops it.\n`)
    await new Promise<void>((resolve) => {
      process.once('SIGINT', () => resolve())
      process.once('SIGTERM', () => resolve())
    })
    await network.stop()
    return 0
  } catch (error) {
    stderr(`jurybox simulate: ${error instanceof Error ? error.message : String(error)}\n`)
    return 2
  }
}
