import { createHash } from 'node:crypto'
import { lookup } from 'node:dns/promises'
import { isIP } from 'node:net'
import type { CommandSet } from '@jurybox/core/dialects'
import ssh2, { type Client as SshClient } from 'ssh2'
import { CURRENT_ALGORITHMS, WITH_DEPRECATED_ALGORITHMS } from './algorithms.ts'
import { StepError, type Step } from './ladder.ts'
import { serviceRecord } from './services.ts'
import { snmpRecord } from './snmp.ts'
import { type Gathered, CONNECT_MS, byRequests, bySession, byCommands } from './gather.ts'
import { type Credential, type CollectLimits, LIMITS, type CollectedRecord } from './limits.ts'

export interface Target {
  readonly name: string
  /** Name or address. */
  readonly address: string
  readonly port: number
  readonly set: CommandSet
  /** SHA-256 of the host key that was seen before, in base64; null at the first time. */
  readonly hostKey: string | null
  /** Speaks algorithms that RFC 9142 deprecates, and may. */
  readonly old: boolean
  /** What is asked over NETCONF as well, and at which port. */
  readonly netconf?: { readonly port: number; readonly set: CommandSet } | undefined
  /** Whether TCP connects to an address are allowed: then what answers there is a record. */
  readonly mayConnect?: ((address: string) => boolean) | undefined
  /** Port at which it tells facts and counters over SNMP. */
  readonly snmpPort?: number | undefined
}

export type Collected =
  | {
      readonly name: string
      readonly ok: true
      readonly records: readonly CollectedRecord[]
      readonly hostKey: string
      readonly credential: string
      readonly unknown: readonly string[]
      /** What else was asked and did not come, with the reason. */ readonly without: readonly string[]
    }
  | {
      readonly name: string
      readonly ok: false
      readonly step: Step
      readonly reason: string
      readonly hostKey: string | null
      readonly attempts: number
    }

/**
 * Everything that a device gives, or the step at which it stopped. Never throws for what a device does; a listing that
 * is not whole is no record.
 * @param credentials in the order in which they are tried
 */
export async function collectDevice(
  target: Target,
  credentials: readonly Credential[],
  limits: CollectLimits = LIMITS,
  signal?: AbortSignal,
): Promise<Collected> {
  for (let attempt = 0; ; attempt++) {
    const seen = { hostKey: null as string | null }
    try {
      return await attemptOn(target, credentials, limits, seen, signal)
    } catch (error) {
      const stopped =
        error instanceof StepError
          ? error
          : new StepError('command', error instanceof Error ? error.message : String(error), false)
      if (!stopped.again || attempt >= limits.again || signal?.aborted)
        return {
          name: target.name,
          ok: false,
          step: stopped.step,
          reason: stopped.message,
          hostKey: seen.hostKey,
          attempts: attempt + 1,
        }
      await pause(limits.backOff * 2 ** attempt, signal)
    }
  }
}

async function attemptOn(
  target: Target,
  credentials: readonly Credential[],
  limits: CollectLimits,
  seen: { hostKey: string | null },
  signal?: AbortSignal,
): Promise<Collected> {
  const host = await addressOf(target.address, limits.connect)
  const some = credentials.slice(0, limits.tries)
  if (some.length === 0) throw new StepError('login', 'there are no credentials', false)
  for (const [i, credential] of some.entries()) {
    const client = new ssh2.Client()
    const stop = (): void => void client.destroy()
    signal?.addEventListener('abort', stop)
    try {
      const fits = await login(client, target, host, credential, limits, seen)
      if (!fits) {
        if (i < some.length - 1) continue
        throw new StepError(
          'login',
          (some.length === 1 ? 'the credential was refused' : `all ${some.length} credentials were refused`) +
            (credentials.length > some.length
              ? `; ${credentials.length - some.length} more were not tried, to avoid a lockout`
              : ''),
          false,
        )
      }
      const { records, unknown } = await asked(client, target.set, credential, limits)
      const without = await besides(target, host, credential, limits, seen, records)
      return {
        name: target.name,
        ok: true,
        records,
        unknown,
        without,
        hostKey: seen.hostKey ?? '',
        credential: credential.id,
      }
    } catch (error) {
      if (signal?.aborted) throw new StepError('command', 'the collection was stopped', false)
      throw error
    } finally {
      signal?.removeEventListener('abort', stop)
      client.end()
    }
  }
  throw new StepError('login', 'there are no credentials', false)
}

async function addressOf(address: string, within: number): Promise<string> {
  if (isIP(address)) return address
  const late = new AbortController()
  const waited = pause(within, late.signal).then(() => null)
  try {
    const found = await Promise.race([lookup(address), waited])
    if (found) return found.address
  } catch {
    throw new StepError('name', `“${address}” has no address`, false)
  } finally {
    late.abort()
  }
  throw new StepError('name', `no reply from the address of “${address}”`, true)
}

/** False where the credential was refused. @throws StepError where it comes to no answer */
async function login(
  client: SshClient,
  { port, hostKey, old }: Target,
  host: string,
  credential: Credential,
  limits: CollectLimits,
  seen: { hostKey: string | null },
): Promise<boolean> {
  return new Promise((resolve, reject) => {
    let step: Step = 'reachable'
    let keyWrong = false
    client
      .on('ready', () => resolve(true))
      .on('error', (error: Error & { code?: string; level?: string }) => {
        if (keyWrong)
          reject(
            new StepError(
              'key',
              'the host key has changed: the device was replaced, or the connection is intercepted. No ' +
                'credential was sent',
              false,
            ),
          )
        else if (error.level === 'client-authentication') resolve(false)
        else reject(whyOf(error, step, host, port))
      })
      .on('close', () =>
        reject(
          new StepError(
            step === 'reachable' ? 'tcp' : 'ssh',
            `${host}:${port} closed the connection before login`,
            true,
          ),
        ),
      )
      .on('connect', () => (step = 'ssh'))
      .on('keyboard-interactive', (_name, _instructions, _language, prompts, finish) =>
        finish(prompts.map(() => credential.password)),
      )
      .connect({
        host,
        port,
        username: credential.user,
        password: credential.password,
        tryKeyboard: true,
        readyTimeout: limits.connect,
        algorithms: old ? WITH_DEPRECATED_ALGORITHMS : CURRENT_ALGORITHMS,
        ...(credential.privateKey ? { privateKey: credential.privateKey } : {}),
        hostVerifier: (key: Buffer): boolean => {
          seen.hostKey = createHash('sha256').update(key).digest('base64')
          keyWrong = hostKey !== null && seen.hostKey !== hostKey
          return !keyWrong
        },
      })
  })
}

function whyOf(error: Error & { code?: string; level?: string }, step: Step, host: string, port: number): StepError {
  switch (error.code) {
    case 'ECONNREFUSED':
      return new StepError('tcp', `${host}:${port} refuses connections`, true)
    case 'EHOSTUNREACH':
    case 'ENETUNREACH':
      return new StepError('reachable', `${host} is not reachable`, true)
    case 'ETIMEDOUT':
      return new StepError('tcp', `${host}:${port} does not answer`, true)
    case 'ECONNRESET':
    case 'EPIPE':
      return new StepError('ssh', `${host}:${port} closed the connection`, true)
    default:
      if (error.level === 'client-timeout')
        return new StepError(step === 'reachable' ? 'tcp' : 'ssh', `${host}:${port} does not offer a login`, true)
      if (/no matching/i.test(error.message))
        return new StepError(
          'ssh',
          `the device only offers SSH algorithms deprecated by RFC 9142 (${error.message}); allow them in ` +
            'its connection if needed',
          false,
        )
      return new StepError(step === 'reachable' ? 'tcp' : 'ssh', error.message, true)
  }
}

async function asked(
  client: SshClient,
  set: CommandSet,
  credential: Credential,
  limits: CollectLimits,
): Promise<Gathered> {
  if (set.talk === 'exec') return byCommands(client, set, limits)
  return set.talk === 'netconf' ? byRequests(client, set, limits) : bySession(client, set, credential, limits)
}

/** What is asked over other ways than the first: adds what comes to the records, and returns why something did not. */
async function besides(
  { netconf, snmpPort, mayConnect, ...target }: Target,
  host: string,
  credential: Credential,
  limits: CollectLimits,
  seen: { hostKey: string | null },
  records: CollectedRecord[],
): Promise<string[]> {
  const without: string[] = []
  const why = (error: unknown): string => (error instanceof Error ? error.message : String(error))
  if (netconf) {
    const client = new ssh2.Client()
    try {
      // What the device has printed already is not asked for again.
      const set = {
        ...netconf.set,
        records: netconf.set.records.filter(
          ({ kind }) => kind.startsWith('state/') && !records.some((record) => record.kind === kind),
        ),
      }
      // The same device has the same key at any port; to another nothing is told.
      if (
        !(await login(client, { ...target, port: netconf.port, hostKey: seen.hostKey }, host, credential, limits, {
          hostKey: null,
        }))
      )
        throw new Error('the credential was refused there')
      records.push(...(await byRequests(client, set, limits)).records)
    } catch (error) {
      without.push(`NETCONF: ${why(error)}`)
    } finally {
      client.end()
    }
  }
  if (snmpPort !== undefined) {
    try {
      const text = await snmpRecord(
        host,
        snmpPort,
        credential.snmp ?? { user: credential.user, auth: credential.password, privacy: credential.password },
        Math.min(limits.connect, 5000),
      )
      records.push({ kind: 'state/counters', form: 'json', text, takenAt: new Date().toISOString() })
    } catch (error) {
      without.push(`SNMP: ${why(error)}`)
    }
  }
  if (mayConnect?.(host))
    records.push({
      kind: 'state/services',
      form: 'json',
      text: await serviceRecord(host, CONNECT_MS),
      takenAt: new Date().toISOString(),
    })
  return without
}

function pause(ms: number, signal?: AbortSignal): Promise<void> {
  return new Promise((resolve) => {
    const done = (): void => {
      clearTimeout(timer)
      signal?.removeEventListener('abort', done)
      resolve()
    }
    const timer = setTimeout(done, ms)
    signal?.addEventListener('abort', done)
  })
}
