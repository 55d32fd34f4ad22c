import { Walker, networkOfSnapshot, readSnapshot } from '@jurybox/core'
import {
  ExhibitTexts,
  fateChanges,
  functionsOf,
  networkFindings,
  shown,
  type ForwardingExhibit,
  type ShownExhibit,
} from '@jurybox/core/forwarding'
import { readFilterText } from '@jurybox/core/headers'
import { UsageError } from './call.ts'
import { filesAt } from './files.ts'
import { TRAFFIC_USAGE, command, key, traceDocument } from './traffic-call.ts'

const lineOf = ({ record, from, text }: ShownExhibit): string => `${record}:${from}: ${text.split('\n')[0] ?? ''}`

export const networkCommand = command('network', {}, ({ snapshot, refused }, print) => {
  const mask = key()
  const texts = new ExhibitTexts(snapshot.devices, mask)
  const findings = networkFindings(new Walker(networkOfSnapshot(snapshot, mask))).map(
    ({ example, exhibits, ...finding }) => ({
      ...finding,
      example: example && {
        at: example.at,
        port: example.port,
        packet: example.packet,
        trace: traceDocument(example.trace, texts),
      },
      exhibits: exhibits.map((one) => texts.show(one)),
    }),
  )
  print({ schema: 2, findings }, () =>
    findings
      .map(({ kind, words, from, packets, exhibits }) =>
        [
          `${kind}: ${words}`,
          ...(from.length > 0 ? [`  from ${from.join(', ')}`] : []),
          ...(packets?.classes ?? []).map((one) => `  ${one}`),
          ...exhibits.map((one) => `  ${lineOf(one)}`),
        ].join('\n'),
      )
      .join('\n'),
  )
  return findings.length + refused > 0 ? 1 : 0
})

export const functionsCommand = command(
  'functions',
  { resolvers: { type: 'string' } },
  ({ values, snapshot, refused }, print) => {
    const mask = key()
    const texts = new ExhibitTexts(snapshot.devices, mask)
    const resolvers =
      typeof values['resolvers'] === 'string'
        ? values['resolvers']
            .split(',')
            .map((one) => one.trim())
            .filter(Boolean)
        : null
    const functions = functionsOf(new Walker(networkOfSnapshot(snapshot, mask)), { resolvers }).map((one) => ({
      ...one,
      links: one.links.map(({ trace, exhibits, ...link }) => ({
        ...link,
        exhibits: exhibits.map((exhibit) => texts.show(exhibit)),
        trace: trace && {
          at: trace.at,
          port: trace.port,
          packet: trace.packet,
          trace: traceDocument(trace.trace, texts),
        },
      })),
    }))
    print({ schema: 2, functions }, () =>
      functions
        .map(({ device, kind, server, outcome, links }) =>
          [
            `${outcome}: ${device} ${kind} ${server}`,
            ...links
              .filter(({ standing }) => standing !== 'pass')
              .flatMap(({ link, standing, words, exhibits }) => [
                `  ${link} ${standing}: ${words}`,
                ...exhibits.map((one) => `    ${lineOf(one)}`),
              ]),
          ].join('\n'),
        )
        .join('\n'),
    )
    return functions.some(({ outcome }) => outcome === 'fail') || refused > 0 ? 1 : 0
  },
)

export const changesCommand = command(
  'changes',
  { before: { type: 'string' }, only: { type: 'string' } },
  ({ values, snapshot, refused }, print) => {
    const { before, only } = values
    if (typeof before !== 'string') throw new UsageError(`--before names the earlier snapshot\n${TRAFFIC_USAGE}`)
    const earlier = readSnapshot(filesAt([before]).files)
    if (earlier.devices.length === 0) throw new UsageError(`nothing readable in ${before}`)
    const mask = key()
    const walkers = [
      new Walker(networkOfSnapshot(earlier, mask)),
      new Walker(networkOfSnapshot(snapshot, mask)),
    ] as const
    const texts = [new ExhibitTexts(earlier.devices, mask), new ExhibitTexts(snapshot.devices, mask)] as const
    const { network } = walkers[1]
    const { changes, gone, added } = fateChanges(
      ...walkers,
      typeof only === 'string' ? readFilterText(network.addressed, only) : undefined,
    )
    const show = (at: 0 | 1, exhibits: readonly ForwardingExhibit[]): ShownExhibit[] =>
      exhibits.map((one) => texts[at].show(one))
    const shownChanges = changes.map(({ set, sources, example, lines, ...change }) => {
      const { count, readable } = shown(network, set, { first: true, sources })
      return {
        ...change,
        headers: count,
        classes: readable.classes,
        whole: readable.whole,
        lines: { before: show(0, lines.before), after: show(1, lines.after) },
        example: example && {
          at: example.at,
          port: example.port,
          packet: example.packet,
          before: traceDocument(example.before, texts[0]),
          after: traceDocument(example.after, texts[1]),
        },
      }
    })
    print(
      {
        schema: 2,
        before: { title: earlier.title, takenAt: earlier.takenAt },
        after: { title: snapshot.title, takenAt: snapshot.takenAt },
        gone,
        added,
        changes: shownChanges,
      },
      () =>
        [
          ...shownChanges.map(({ before: was, after: is, from, to, ends, classes, lines }) =>
            [
              `${was.join(', ')} → ${is.join(', ')}: from ${from.join(', ')} to ${to.join(', ')}`,
              ...ends.map((one) => `  ${one}`),
              ...classes.map((one) => `  ${one}`),
              ...lines.before.map((one) => `  before: ${lineOf(one)}`),
              ...lines.after.map((one) => `  after: ${lineOf(one)}`),
            ].join('\n'),
          ),
          ...gone.map((one) => `gone: ${one}`),
          ...added.map((one) => `new: ${one}`),
        ].join('\n'),
    )
    return changes.length + gone.length + added.length + refused > 0 ? 1 : 0
  },
)
