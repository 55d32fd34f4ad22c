import { Walker, answerTo, networkOfSnapshot, reach, readExpectations, traceOf, type Network } from '@jurybox/core'
import { judgedRecord } from '@jurybox/core/analysis'
import {
  AskError,
  ExhibitTexts,
  filterFindings,
  mustWords,
  packetAsked,
  placeOf,
  pointAt,
  shown,
  traceQuestionSchema,
  whatIsReached,
  whoReaches,
  type TraceQuestion,
} from '@jurybox/core/forwarding'
import { NOTHING, readFilterText } from '@jurybox/core/headers'
import type { ReadRecord } from '@jurybox/core/state'
import { schemaFault } from '@jurybox/core/syntax'
import { z } from 'zod'
import { UsageError } from './call.ts'
import { TRAFFIC_USAGE, command, key, textAt, traceDocument } from './traffic-call.ts'

export const traceCommand = command(
  'trace',
  {
    at: { type: 'string' },
    src: { type: 'string' },
    dst: { type: 'string' },
    proto: { type: 'string' },
    sport: { type: 'string' },
    dport: { type: 'string' },
    each: { type: 'string' },
  },
  ({ values, snapshot }, print, write) => {
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
          if (error instanceof AskError)
            throw new UsageError(`${String(values['each'])}, question ${i + 1}: ${error.message}`)
          throw error
        }
      })
      write(lines.map((line) => JSON.stringify(line)).join('\n'))
      return 0
    }
    const parsedQuestion = traceQuestionSchema.safeParse({
      at: values['at'],
      src: values['src'],
      dst: values['dst'],
      proto: values['proto'],
      sport: values['sport'],
      dport: values['dport'],
    })
    if (!parsedQuestion.success)
      throw new UsageError(
        `--at, --src, --dst and --proto say what is asked: ${schemaFault(parsedQuestion.error)}\n${TRAFFIC_USAGE}`,
      )
    const document = answer(parsedQuestion.data)
    print(document, () => traceText(document))
    return 0
  },
)

function questionsAt(path: string): TraceQuestion[] {
  return textAt(path)
    .split('\n')
    .flatMap((line, i): TraceQuestion[] => {
      if (line.trim() === '') return []
      try {
        return [traceQuestionSchema.parse(JSON.parse(line))]
      } catch (error) {
        throw new UsageError(
          `${path}, line ${i + 1}: ${error instanceof z.ZodError ? schemaFault(error) : 'this is not JSON'} ` +
            '(expected {"at","src","dst","proto","sport","dport"})',
        )
      }
    })
}

function traceText({ fates, paths }: ReturnType<typeof traceDocument>): string {
  return [
    `fates: ${fates.join(', ')}`,
    ...paths.flatMap(({ fate, reason, device, hops }, i) => [
      `path ${i + 1}: ${fate} at ${device} (${reason.words})`,
      ...hops.flatMap(({ device: name, in: inside, out, decisions }) => [
        `  ${name}${inside === null ? '' : ` in ${inside}`}${out === null ? '' : ` out ${out}`}`,
        ...decisions.flatMap(({ stage, result, exhibits }) => [
          `    ${stage}: ${result}`,
          ...exhibits.flatMap(({ record, from, text }) =>
            text.split('\n').map((line, at) => `      ${record}:${from + at}: ${line}`),
          ),
        ]),
      ]),
    ]),
  ].join('\n')
}

export const trafficCommand = command(
  'traffic',
  { expectations: { type: 'string' } },
  ({ values, snapshot, refused }, print) => {
    const file =
      typeof values['expectations'] === 'string'
        ? { path: values['expectations'], text: textAt(values['expectations']) }
        : snapshot.expectations
    if (!file)
      throw new UsageError(`the snapshot holds no expectations.yaml; name a file with --expectations\n${TRAFFIC_USAGE}`)
    const expectations = readExpectations(file)
    const mask = key()
    const walker = new Walker(networkOfSnapshot(snapshot, mask))
    const texts = new ExhibitTexts(snapshot.devices, mask)
    const answers = expectations.map((expectation) => {
      const { id, outcome, words, missing, packets, example, exhibits } = answerTo(walker, expectation)
      return {
        id,
        title: expectation.title,
        must: mustWords(expectation.must),
        outcome,
        words,
        missing,
        severity: expectation.severity,
        references: expectation.references,
        packets: packets && {
          headers: packets.count,
          classes: packets.readable.classes,
          whole: packets.readable.whole,
        },
        example: example && {
          at: example.at,
          port: example.port,
          packet: example.packet,
          trace: traceDocument(example.trace, texts),
        },
        exhibits: exhibits.map((one) => texts.show(one)),
      }
    })
    const counts = { met: 0, violated: 0, undecided: 0 }
    for (const { outcome } of answers) counts[outcome]++
    print({ schema: 2, snapshot: { title: snapshot.title, takenAt: snapshot.takenAt }, answers, counts }, () =>
      answers
        .map(({ id, title, must, outcome, words, missing, packets, exhibits }) =>
          [
            `${outcome}: ${id} (${title}; ${must}): ${words}`,
            ...missing.map((one) => `  missing: ${one}`),
            ...(packets?.classes ?? []).map((one) => `  ${one}`),
            ...exhibits.map(({ record, from, text }) => `  ${record}:${from}: ${text.split('\n')[0] ?? ''}`),
          ].join('\n'),
        )
        .join('\n'),
    )
    return counts.violated + counts.undecided + refused > 0 ? 1 : 0
  },
)

function classesOf(
  network: Network,
  set: number,
  between: { readonly sources: number; readonly destinations: number },
) {
  const { count, example, readable } = shown(network, set, { first: true, ...between })
  return set === NOTHING ? null : { headers: count, classes: readable.classes, whole: readable.whole, example }
}

export const reachCommand = command(
  'reach',
  { from: { type: 'string' }, to: { type: 'string' }, only: { type: 'string' } },
  ({ values, snapshot }, print) => {
    const { from, to, only } = values
    if (typeof from !== 'string' && typeof to !== 'string')
      throw new UsageError(`--from and --to say what is asked\n${TRAFFIC_USAGE}`)
    const network = networkOfSnapshot(snapshot, key())
    const set = typeof only === 'string' ? readFilterText(network.addressed, only) : undefined
    if (typeof from !== 'string' || typeof to !== 'string') {
      const walker = new Walker(network)
      const rows =
        typeof to === 'string'
          ? whoReaches(walker, placeOf(network, to), set)
          : whatIsReached(walker, placeOf(network, String(from)), set)
      const places = rows.map(({ place, arrives, undecided, sources, destinations }) => ({
        place,
        arrives: classesOf(network, arrives, { sources, destinations }),
        undecided: classesOf(network, undecided, { sources, destinations }),
      }))
      print(
        { schema: 2, from: from ?? null, to: to ?? null, only: typeof only === 'string' ? only : null, places },
        () =>
          places
            .flatMap(({ place, arrives, undecided }) => [
              place,
              ...(arrives?.classes ?? []).map((one) => `  ${one}`),
              ...(undecided?.classes ?? []).map((one) => `  undecided: ${one}`),
            ])
            .join('\n'),
      )
      return 0
    }
    const answer = reach(new Walker(network), placeOf(network, from), placeOf(network, to), set)
    const parts = answer.parts.map(({ fate, reason, device, port, set: packets }) => {
      const { count, example, readable } = shown(network, packets)
      return { fate, reason, device, port, headers: count, classes: readable.classes, whole: readable.whole, example }
    })
    const asked = shown(network, answer.asked)
    print(
      {
        schema: 2,
        from,
        to,
        only: typeof only === 'string' ? only : null,
        asked: { headers: asked.count, classes: asked.readable.classes, whole: asked.readable.whole },
        parts,
      },
      () =>
        [
          `asked: ${asked.readable.classes.join('\n       ')}${asked.readable.whole ? '' : '\n       and more'}`,
          ...parts.flatMap(({ fate, reason, device, port, classes, whole, headers }) => [
            `${fate} at ${device}${port === null ? '' : ` ${port}`}: ${reason.words} (${headers} headers)`,
            ...classes.map((one) => `  ${one}`),
            ...(whole ? [] : ['  and more']),
          ]),
        ].join('\n'),
    )
    return 0
  },
)

export const filtersCommand = command('filters', {}, ({ snapshot, refused }, print) => {
  const mask = key()
  const network = networkOfSnapshot(snapshot, mask)
  const texts = new ExhibitTexts(snapshot.devices, mask)
  const findings = network.devices.flatMap(({ name, device: { modelled } }) => {
    const records = snapshot.devices.find((device) => device.name === name)?.records ?? []
    const judged = judgedRecord(
      records.map(({ id, kind, tree, text }): ReadRecord => (tree ? { id, kind, tree } : { id, kind, tree, text })),
    )
    return modelled ? filterFindings(name, modelled, judged?.tree.lines.text.split(/\r?\n/) ?? []) : []
  })
  const shownFindings = findings.map((finding) => ({
    ...finding,
    exhibits: finding.exhibits.map((one) => texts.show(one)),
  }))
  print({ schema: 2, findings: shownFindings }, () =>
    shownFindings
      .map(({ device, kind, list, words, packets, exhibits }) =>
        [
          `${device} ${list}: ${kind}: ${words}`,
          ...(packets?.classes ?? []).map((one) => `  ${one}`),
          ...exhibits.map(({ record, from, text }) => `  ${record}:${from}: ${text.split('\n')[0] ?? ''}`),
        ].join('\n'),
      )
      .join('\n'),
  )
  return findings.length + refused > 0 ? 1 : 0
})
