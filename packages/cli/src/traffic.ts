import { randomBytes } from 'node:crypto'
import { readFileSync, writeFileSync } from 'node:fs'
import { parseArgs, type ParseArgsConfig } from 'node:util'
import { AskError, BesideFileError, ExhibitTexts, FilterTextError, PlaceError, Walker, answerTo, filterFindings, judgedRecord, maskWithKey, mustWords, networkOfSnapshot, packetAsked, placeOf, pointAt, reach, readExpectations, readFilterText, readSnapshot, shown, traceOf, traceQuestionSchema, type ReadRecord, type Snapshot, type Trace, type TraceQuestion } from '@jurybox/core'
import { z } from 'zod'
import { UsageError, type Output } from './call.ts'
import { filesAt } from './files.ts'

export const TRAFFIC_USAGE = `Usage: jurybox traffic SNAPSHOT… [--expectations FILE]
       jurybox trace SNAPSHOT… --at DEVICE[:INTERFACE] --src A --dst B --proto tcp|udp|icmp|N [--sport N] [--dport N]
       jurybox trace SNAPSHOT… --each FILE
       jurybox reach SNAPSHOT… --from PLACE --to PLACE [--only 'pcap-filter text']
       jurybox filters SNAPSHOT…
         each with [--format json|text] [--out FILE]

traffic answers the expectations of the snapshot, or of a file (docs/formats/expectations.md).
trace follows one packet and prints every decision with its lines; with --each it answers JSON lines
{at,src,dst,proto,sport,dport} in order, one line each. reach tells what becomes of every packet from one place to
another. filters lists what is odd about the lines of access lists.
PLACE is a device, DEVICE:INTERFACE, a prefix, site:NAME, zone:NAME, label:NAME=VALUE, or outside.
Exit status: 0 the question was answered (traffic: all hold; filters: nothing was found); 1 an expectation is broken or
undecided, filters found something, or a file was refused; 2 bad usage or nothing readable.`

type Options = NonNullable<ParseArgsConfig['options']>
const COMMON = { format: { type: 'string', default: 'text' }, out: { type: 'string' } } as const satisfies Options

interface Call {
  readonly values: Readonly<Record<string, string | boolean | undefined>>
  readonly snapshot: Snapshot
  readonly refused: number
}

/** Reads the files that are named, and answers; what is wrong with the call itself is told and gives 2. */
function command(name: string, options: Options, answer: (call: Call, print: (data: unknown, text: () => string) => void, write: (text: string) => void) => number): (args: readonly string[], output: Output) => number {
  return (args, output) => {
    try {
      const { values, positionals } = parsed(args, options)
      if (positionals.length === 0) throw new UsageError(`name a snapshot\n${TRAFFIC_USAGE}`)
      if (values['format'] !== 'json' && values['format'] !== 'text') throw new UsageError(`unknown format "${String(values['format'])}" (expected json, text)`)
      const { files, refused } = filesAt(positionals)
      const snapshot = readSnapshot(files)
      const all = [...refused, ...snapshot.refused]
      for (const { path, reason } of all) output.stderr(`refused: ${path}: ${reason}\n`)
      if (snapshot.devices.length === 0) throw new UsageError('Nothing readable: no file was read as a device configuration.')
      const write = (text: string): void => (typeof values['out'] === 'string' ? writeFileSync(values['out'], `${text}\n`) : output.stdout(`${text}\n`))
      return answer({ values, snapshot, refused: all.length }, (data, text) => write(values['format'] === 'json' ? JSON.stringify(data, null, 2) : text()), write)
    } catch (error) {
      if (!(error instanceof UsageError || error instanceof PlaceError || error instanceof FilterTextError || error instanceof BesideFileError || error instanceof AskError)) throw error
      output.stderr(`jurybox ${name}: ${error.message}\n`)
      return 2
    }
  }
}

function parsed(args: readonly string[], options: Options): { values: Readonly<Record<string, string | boolean | undefined>>; positionals: string[] } {
  try {
    const { values, positionals } = parseArgs({ args: [...args], allowPositionals: true, options: { ...options, ...COMMON } })
    return { values: values as Record<string, string | boolean | undefined>, positionals }
  } catch (error) {
    throw new UsageError(`${error instanceof Error ? error.message : String(error)}\n${TRAFFIC_USAGE}`)
  }
}

const key = (): ReturnType<typeof maskWithKey> => maskWithKey(randomBytes(32))

export const traceCommand = command('trace', { at: { type: 'string' }, src: { type: 'string' }, dst: { type: 'string' }, proto: { type: 'string' }, sport: { type: 'string' }, dport: { type: 'string' }, each: { type: 'string' } }, ({ values, snapshot }, print, write) => {
  const mask = key()
  const walker = new Walker(networkOfSnapshot(snapshot, mask))
  const texts = new ExhibitTexts(snapshot.devices, mask)
  const answer = (question: TraceQuestion): ReturnType<typeof traceDocument> => {
    const { device, port } = pointAt(walker.network, question.at)
    return traceDocument(traceOf(walker, device, port, packetAsked(question)), texts)
  }
  if (typeof values['each'] === 'string') {
    const lines = questionsAt(values['each']).map((question, i) => {
      try {
        return answer(question)
      } catch (error) {
        if (error instanceof AskError) throw new UsageError(`${String(values['each'])}, question ${i + 1}: ${error.message}`)
        throw error
      }
    })
    write(lines.map((line) => JSON.stringify(line)).join('\n'))
    return 0
  }
  const parsedQuestion = traceQuestionSchema.safeParse({ at: values['at'], src: values['src'], dst: values['dst'], proto: values['proto'], sport: values['sport'], dport: values['dport'] })
  if (!parsedQuestion.success) throw new UsageError(`--at, --src, --dst and --proto say what is asked: ${z.prettifyError(parsedQuestion.error).replace(/\s*\n\s*/g, ' ')}\n${TRAFFIC_USAGE}`)
  const document = answer(parsedQuestion.data)
  print(document, () => traceText(document))
  return 0
})

function questionsAt(path: string): TraceQuestion[] {
  return textAt(path).split('\n').flatMap((line, i): TraceQuestion[] => {
    if (line.trim() === '') return []
    try {
      return [traceQuestionSchema.parse(JSON.parse(line))]
    } catch (error) {
      throw new UsageError(`${path}, line ${i + 1}: ${error instanceof z.ZodError ? z.prettifyError(error).replace(/\s*\n\s*/g, ' ') : 'this is not JSON'} (expected {"at","src","dst","proto","sport","dport"})`)
    }
  })
}

/** The documented form of a trace. */
function traceDocument(trace: Trace, texts: ExhibitTexts) {
  return {
    schema: 1 as const,
    fates: trace.fates,
    whole: trace.whole,
    paths: trace.paths.map(({ fate, reason, device, hops, protection }) => ({
      fate, reason, device, protection,
      hops: hops.map((hop) => ({ device: hop.device, in: hop.in, out: hop.out, decisions: hop.decisions.map(({ stage, result, exhibits }) => ({ stage, result, exhibits: exhibits.map((one) => texts.show(one)) })) })),
    })),
  }
}

function traceText({ fates, paths }: ReturnType<typeof traceDocument>): string {
  return [
    `fates: ${fates.join(', ')}`,
    ...paths.flatMap(({ fate, reason, device, hops }, i) => [
      `path ${i + 1}: ${fate} at ${device} (${reason.words})`,
      ...hops.flatMap(({ device: name, in: inside, out, decisions }) => [
        `  ${name}${inside === null ? '' : ` in ${inside}`}${out === null ? '' : ` out ${out}`}`,
        ...decisions.flatMap(({ stage, result, exhibits }) => [`    ${stage}: ${result}`, ...exhibits.flatMap(({ record, from, text }) => text.split('\n').map((line, at) => `      ${record}:${from + at}: ${line}`))]),
      ]),
    ]),
  ].join('\n')
}

export const trafficCommand = command('traffic', { expectations: { type: 'string' } }, ({ values, snapshot, refused }, print) => {
  const file = typeof values['expectations'] === 'string' ? { path: values['expectations'], text: textAt(values['expectations']) } : snapshot.expectations
  if (!file) throw new UsageError(`the snapshot holds no expectations.yaml; name a file with --expectations\n${TRAFFIC_USAGE}`)
  const expectations = readExpectations(file)
  const mask = key()
  const walker = new Walker(networkOfSnapshot(snapshot, mask))
  const texts = new ExhibitTexts(snapshot.devices, mask)
  const answers = expectations.map((expectation) => {
    const { id, outcome, words, missing, packets, example, exhibits } = answerTo(walker, expectation)
    return {
      id, title: expectation.title, must: mustWords(expectation.must), outcome, words, missing, severity: expectation.severity, references: expectation.references,
      packets: packets && { headers: packets.count, classes: packets.readable.classes, whole: packets.readable.whole },
      example: example && { at: example.at, port: example.port, packet: example.packet, trace: traceDocument(example.trace, texts) },
      exhibits: exhibits.map((one) => texts.show(one)),
    }
  })
  const counts = { holds: 0, broken: 0, undecided: 0 }
  for (const { outcome } of answers) counts[outcome]++
  print({ schema: 1, snapshot: { title: snapshot.title, takenAt: snapshot.takenAt }, answers, counts }, () =>
    answers.map(({ id, title, must, outcome, words, missing, packets, exhibits }) => [`${outcome}: ${id} (${title}; ${must}): ${words}`, ...missing.map((one) => `  missing: ${one}`), ...(packets?.classes ?? []).map((one) => `  ${one}`), ...exhibits.map(({ record, from, text }) => `  ${record}:${from}: ${text.split('\n')[0] ?? ''}`)].join('\n')).join('\n'),
  )
  return counts.broken + counts.undecided + refused > 0 ? 1 : 0
})

function textAt(path: string): string {
  try {
    return readFileSync(path, 'utf8')
  } catch (error) {
    throw new UsageError(`${path} cannot be read: ${error instanceof Error ? error.message : String(error)}`)
  }
}

export const reachCommand = command('reach', { from: { type: 'string' }, to: { type: 'string' }, only: { type: 'string' } }, ({ values, snapshot }, print) => {
  const { from, to, only } = values
  if (typeof from !== 'string' || typeof to !== 'string') throw new UsageError(`--from and --to say what is asked\n${TRAFFIC_USAGE}`)
  const network = networkOfSnapshot(snapshot, key())
  const set = typeof only === 'string' ? readFilterText(network.addressed, only) : undefined
  const answer = reach(new Walker(network), placeOf(network, from), placeOf(network, to), set)
  const parts = answer.parts.map(({ fate, reason, device, port, set: packets }) => {
    const { count, example, readable } = shown(network, packets)
    return { fate, reason, device, port, headers: count, classes: readable.classes, whole: readable.whole, example }
  })
  const asked = shown(network, answer.asked)
  print({ schema: 1, from, to, only: typeof only === 'string' ? only : null, asked: { headers: asked.count, classes: asked.readable.classes, whole: asked.readable.whole }, parts }, () =>
    [`asked: ${asked.readable.classes.join('\n       ')}${asked.readable.whole ? '' : '\n       and more'}`, ...parts.flatMap(({ fate, reason, device, port, classes, whole, headers }) => [`${fate} at ${device}${port === null ? '' : ` ${port}`}: ${reason.words} (${headers} headers)`, ...classes.map((one) => `  ${one}`), ...(whole ? [] : ['  and more'])])].join('\n'),
  )
  return 0
})

export const filtersCommand = command('filters', {}, ({ snapshot, refused }, print) => {
  const mask = key()
  const network = networkOfSnapshot(snapshot, mask)
  const texts = new ExhibitTexts(snapshot.devices, mask)
  const findings = network.devices.flatMap(({ name, device: { modelled } }) => {
    const records = snapshot.devices.find((device) => device.name === name)?.records ?? []
    const judged = judgedRecord(records.map(({ id, kind, tree, text }): ReadRecord => (tree ? { id, kind, tree } : { id, kind, tree, text })))
    return modelled ? filterFindings(name, modelled, judged?.tree.lines.text.split(/\r?\n/) ?? []) : []
  })
  const shownFindings = findings.map((finding) => ({ ...finding, exhibits: finding.exhibits.map((one) => texts.show(one)) }))
  print({ schema: 1, findings: shownFindings }, () => shownFindings.map(({ device, kind, list, words, packets, exhibits }) => [`${device} ${list}: ${kind}: ${words}`, ...(packets?.classes ?? []).map((one) => `  ${one}`), ...exhibits.map(({ record, from, text }) => `  ${record}:${from}: ${text.split('\n')[0] ?? ''}`)].join('\n')).join('\n'))
  return findings.length + refused > 0 ? 1 : 0
})
