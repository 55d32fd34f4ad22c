import { randomBytes } from 'node:crypto'
import { readFileSync, writeFileSync } from 'node:fs'
import { parseArgs, type ParseArgsConfig } from 'node:util'
import { CoreError, maskWithKey, readSnapshot, type Snapshot, type Trace } from '@jurybox/core'
import type { ExhibitTexts } from '@jurybox/core/forwarding'
import { UsageError, type Output } from './call.ts'
import { filesAt } from './files.ts'

export const TRAFFIC_USAGE = `Usage: jurybox traffic SNAPSHOT… [--expectations FILE]
       jurybox trace SNAPSHOT… --at DEVICE[:INTERFACE] --src A --dst B --proto tcp|udp|icmp|N [--sport N] [--dport N]
       jurybox trace SNAPSHOT… --each FILE
       jurybox reach SNAPSHOT… --from PLACE --to PLACE [--only 'pcap-filter text']   (one of the two alone: what reaches it, what it reaches)
       jurybox filters SNAPSHOT…
       jurybox network SNAPSHOT…
       jurybox functions SNAPSHOT… [--resolvers A,B]
       jurybox changes SNAPSHOT… --before SNAPSHOT [--only 'pcap-filter text']
         each with [--format json|text] [--out FILE]

traffic checks the expectations of the snapshot, or of a file (docs/formats/expectations.md).
trace follows one packet and prints every decision with its lines; with --each it answers JSON lines
{at,src,dst,proto,sport,dport} in order, one line each. reach shows the fate of every packet from one place to another.
filters lists findings in access lists, network findings between devices. functions checks step by step whether NTP,
syslog, logins, SNMP traps and DNS work. changes lists flows whose fate differs from an earlier snapshot, and the lines
that cause it.
PLACE is a device, DEVICE:INTERFACE, a prefix, site:NAME, zone:NAME, label:NAME=VALUE, or outside.
Exit status: 0 the question was answered (traffic: all are met; filters, network: nothing was found; functions: none
fails; changes: there are none); 1 otherwise, or a file was refused; 2 bad usage or nothing readable.`

type Options = NonNullable<ParseArgsConfig['options']>
const COMMON = { format: { type: 'string', default: 'text' }, out: { type: 'string' } } as const satisfies Options

interface Call {
  readonly values: Readonly<Record<string, string | boolean | undefined>>
  readonly snapshot: Snapshot
  readonly refused: number
}

/** Reads the files that are named, and answers; what is wrong with the call itself is told and gives 2. */
export function command(
  name: string,
  options: Options,
  answer: (call: Call, print: (data: unknown, text: () => string) => void, write: (text: string) => void) => number,
): (args: readonly string[], output: Output) => number {
  return (args, output) => {
    try {
      const { values, positionals } = parsed(args, options)
      if (positionals.length === 0) throw new UsageError(`name a snapshot\n${TRAFFIC_USAGE}`)
      if (values['format'] !== 'json' && values['format'] !== 'text')
        throw new UsageError(`unknown format "${String(values['format'])}" (expected json, text)`)
      const { files, refused } = filesAt(positionals)
      const snapshot = readSnapshot(files)
      const all = [...refused, ...snapshot.refused]
      for (const { path, reason } of all) output.stderr(`refused: ${path}: ${reason}\n`)
      if (snapshot.devices.length === 0)
        throw new UsageError('Nothing readable: no file was read as a device configuration.')
      const write = (text: string): void =>
        typeof values['out'] === 'string' ? writeFileSync(values['out'], `${text}\n`) : output.stdout(`${text}\n`)
      return answer(
        { values, snapshot, refused: all.length },
        (data, text) => write(values['format'] === 'json' ? JSON.stringify(data, null, 2) : text()),
        write,
      )
    } catch (error) {
      if (!(error instanceof UsageError || error instanceof CoreError)) throw error
      output.stderr(`jurybox ${name}: ${error.message}\n`)
      return 2
    }
  }
}

function parsed(
  args: readonly string[],
  options: Options,
): { values: Readonly<Record<string, string | boolean | undefined>>; positionals: string[] } {
  try {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: { ...options, ...COMMON },
    })
    return { values: values as Record<string, string | boolean | undefined>, positionals }
  } catch (error) {
    throw new UsageError(`${error instanceof Error ? error.message : String(error)}\n${TRAFFIC_USAGE}`)
  }
}

export const key = (): ReturnType<typeof maskWithKey> => maskWithKey(randomBytes(32))

/** The documented form of a trace. */
export function traceDocument(trace: Trace, texts: ExhibitTexts) {
  return {
    schema: 2 as const,
    fates: trace.fates,
    whole: trace.whole,
    paths: trace.paths.map(({ fate, reason, device, hops, protection }) => ({
      fate,
      reason,
      device,
      protection,
      hops: hops.map((hop) => ({
        device: hop.device,
        in: hop.in,
        out: hop.out,
        decisions: hop.decisions.map(({ stage, result, exhibits }) => ({
          stage,
          result,
          exhibits: exhibits.map((one) => texts.show(one)),
        })),
      })),
    })),
  }
}

export function textAt(path: string): string {
  try {
    return readFileSync(path, 'utf8')
  } catch (error) {
    throw new UsageError(`${path} cannot be read: ${error instanceof Error ? error.message : String(error)}`)
  }
}
