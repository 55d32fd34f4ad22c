import { readRecord } from '@jurybox/core/snapshot'
import type { CommandSet } from '@jurybox/core/dialects'
import type { Client as SshClient } from 'ssh2'
import { StepError } from './ladder.ts'
import { NetconfSession, operationOf } from './netconf.ts'
import { ShellSession, execute } from './session.ts'
import type { Credential, CollectLimits, CollectedRecord } from './limits.ts'

export interface Gathered {
  readonly records: CollectedRecord[]
  /** Kinds that the device does not know. */
  readonly unknown: string[]
}

/** A service that answers later than this counts as silent. */
export const CONNECT_MS = 1000

export async function byRequests(client: SshClient, set: CommandSet, limits: CollectLimits): Promise<Gathered> {
  const session = await NetconfSession.open(client, limits)
  return gathered(set, async (command) => session.request(operationOf(command), `“${command}”`))
}

export async function bySession(
  client: SshClient,
  set: CommandSet,
  credential: Credential,
  limits: CollectLimits,
): Promise<Gathered> {
  const session = await ShellSession.open(client, limits)
  for (const command of set.quiet) await session.run(command)
  const { privileged } = set
  if (privileged && session.prompt.endsWith(privileged.few)) {
    const given = await session.rights(
      privileged.command,
      privileged.asks,
      credential.privileged ?? credential.password,
      privileged.many,
    )
    if (!given) throw new StepError('privilege', 'the enable password was refused', false)
  }
  return gathered(set, (command) => session.run(command))
}

export async function byCommands(client: SshClient, set: CommandSet, limits: CollectLimits): Promise<Gathered> {
  return gathered(set, async (command) => execute(client, command, limits))
}

async function gathered(set: CommandSet, ask: (command: string) => Promise<string>): Promise<Gathered> {
  const out: Gathered = { records: [], unknown: [] }
  for (const { kind, command, needed = false, form = 'text', ends } of set.records) {
    let text: string
    try {
      text = await ask(command)
    } catch (error) {
      // A command of its own that is refused leaves the others to be asked.
      if (needed || !(error instanceof StepError) || error.step !== 'command') throw error
      out.unknown.push(kind)
      continue
    }
    const first = text.trimStart().split('\n', 1)[0] ?? ''
    if (set.refused.some((words) => first.startsWith(words))) {
      if (needed) throw new StepError('command', `“${command}” was refused: ${first.slice(0, 200)}`, false)
      out.unknown.push(kind)
      continue
    }
    const fault =
      ends !== undefined && !text.trimEnd().endsWith(`\n${ends}`)
        ? `it does not end with “${ends}”`
        : faultIn(kind, set.dialect, text, needed)
    if (fault !== null) throw new StepError('listing', `“${command}” is incomplete: ${fault}`, true)
    if (text.trim() !== '') out.records.push({ kind, form, text, takenAt: new Date().toISOString() })
  }
  return out
}

/** Why a text is not the whole configuration; null where it is, or is none. */
function faultIn(kind: string, dialect: string, text: string, needed: boolean): string | null {
  if (!kind.startsWith('config') && !kind.startsWith('filters')) return null
  // A gateway without rules for IPv6 prints none.
  if (text.trim() === '') return needed ? 'it is empty' : null
  const [fault] = readRecord(text, dialect).faults
  return fault ? `line ${fault.line}: ${fault.reason}` : null
}
