import { expect } from 'chai'
import { readFileSync, readdirSync } from 'node:fs'
import {
  EffectiveConfig,
  Network,
  Walker,
  dialectById,
  modelOf,
  traceOf,
  type Dialect,
  type Packet,
} from '@jurybox/core'
import { stateOf } from '@jurybox/core/analysis'
import type { Outcome } from '@jurybox/core/rules'
import { DeviceAnalysis } from '@jurybox/core/analysis'
import { AuditedDevice } from '@jurybox/core/audit'
import type { CompiledBenchmark } from '@jurybox/core/benchmarks'
import { forwardingOf, type NetworkDevice } from '@jurybox/core/forwarding'
import type { ReadRecord } from '@jurybox/core/state'
import { benchOf, mask } from './hardening.ts'

/**
 * A word that nobody knows in the place of a key word: what was at fault must not become right, and what becomes of a
 * packet must not become something else; either may become undecided.
 */
const UNKNOWN_WORD = 'xqzzy'
const ROOT = new URL('../../../scenario/2026-11-16/devices/', import.meta.url)

interface Subject {
  readonly name: string
  readonly dialect: Dialect
  readonly text: string
}

function subjects(): Subject[] {
  const known = (id: string): Dialect =>
    dialectById(id) ??
    ((): never => {
      throw new Error(id)
    })()
  const demo = readdirSync(ROOT).flatMap((name): Subject[] => {
    try {
      const text = readFileSync(new URL(`${name}/config.txt`, ROOT), 'utf8')
      const id = ['braced', 'setlines', 'indented'].find((one) => known(one).recognise(text) > 0.9)
      return id === undefined ? [] : [{ name, dialect: known(id), text }]
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === 'ENOENT') return []
      throw error
    }
  })
  const fixtures = ['indented', 'braced', 'setlines', 'data'].map((id) => ({
    name: `fixture ${id}`,
    dialect: known(id),
    text: readFileSync(new URL(`../../core/test/model/devices/${id}/config.txt`, import.meta.url), 'utf8'),
  }))
  return [...demo, ...fixtures]
}

/** Repeatable draws (xorshift; no library's state is needed). */
function draws(seed: number): (below: number) => number {
  let state = seed
  return (below) => {
    state ^= state << 13
    state ^= state >>> 17
    state ^= state << 5
    return (state >>> 0) % below
  }
}

/**
 * The text with one key word made unknown: the first word of a line, or a later one. Lines of free text and marks are
 * left alone.
 */
function garbled(
  { text, dialect }: Subject,
  draw: (below: number) => number,
): { readonly text: string; readonly line: number } | null {
  const lines = text.split('\n')
  const commands = [...nodeLines(dialect, text)]
  const line = commands[draw(commands.length)] ?? 1
  const words = [...(lines[line - 1] ?? '').matchAll(/[^\s;{}":,]+/g)].filter(
    ({ 0: word }) => /^[a-z][a-z-]*$/.test(word) && !/^(?:no|set|host|any)$/.test(word),
  )
  // The first words name the command; later ones are mostly names and values, and a text is all value.
  const isText = /^\s*(?:description|remark|hostname|negotiation|version)\b/.test(lines[line - 1] ?? '')
  const word = words[draw(Math.min(words.length, isText ? 1 : 2))]
  if (!word) return null
  const at = word.index
  const whole = lines[line - 1] ?? ''
  lines[line - 1] = `${whole.slice(0, at)}${UNKNOWN_WORD}${whole.slice(at + word[0].length)}`
  return { text: lines.join('\n'), line }
}

/** What a device writes, by dialect, where it lost lines of a listing. */
const GAPS: Readonly<Record<string, string>> = {
  indented: '% Invalid input detected',
  setlines: 'error: connection lost',
  braced: '---(more)---',
}

/** The text without some lines in a row, or without all from one on, and with what tells that they are missing. */
function cutOff(
  { text, dialect }: Subject,
  draw: (below: number) => number,
): { readonly text: string; readonly line: number } | null {
  const gap = GAPS[dialect.id]
  if (gap === undefined) return null
  const lines = text.split('\n')
  const line = 1 + draw(lines.length)
  const gone = draw(4) === 0 ? lines.length : 1 + draw(20)
  return { text: [...lines.slice(0, line - 1), gap, ...lines.slice(line - 1 + gone)].join('\n'), line }
}

function nodeLines(dialect: Dialect, text: string): Set<number> {
  const found = new Set<number>()
  const visit = (nodes: ReturnType<Dialect['read']>['nodes']): void => {
    for (const node of nodes) {
      if (node.kind === 'command' && node.body === undefined) found.add(node.line)
      visit(node.children)
    }
  }
  visit(dialect.read(text).nodes)
  return found
}

function outcomes(bench: CompiledBenchmark, { name, dialect }: Subject, text: string): Map<string, Outcome> {
  const records: ReadRecord[] = [{ id: 'config', kind: 'config', tree: dialect.read(text) }]
  const device = AuditedDevice.of(name, new DeviceAnalysis(dialect, records, mask))
  return new Map((device?.verdicts([bench], 'own') ?? []).map(({ rule, outcome }) => [rule, outcome as Outcome]))
}

function lineAt({ text, line }: { readonly text: string; readonly line: number }): string {
  return text.split('\n')[line - 1]?.trim() ?? ''
}

/** What tells that nothing is known. */
const UNSURE: ReadonlySet<string> = new Set(['unknown', 'error', 'notchecked'])

/** Of each device and kind of question; `GARBLINGS` in the environment asks for more. */
const TIMES = Number(process.env['GARBLINGS'] ?? 40)

describe('a word that nobody knows, or lines that are missing', () => {
  const bench = benchOf()
  for (const subject of subjects()) {
    it(`turns no verdict of ${subject.name} right`, () => {
      const before = outcomes(bench, subject, subject.text)
      const draw = draws(subject.name.length * 7919 + 17)
      const turned: string[] = []
      for (let i = 0; i < TIMES; i++) {
        const changed = garbled(subject, draw)
        if (!changed) continue
        for (const [rule, outcome] of outcomes(bench, subject, changed.text)) {
          if (before.get(rule) === 'fail' && (outcome === 'pass' || outcome === 'notapplicable'))
            turned.push(`${rule}: ${outcome} by line ${changed.line}, ${lineAt(changed)}`)
        }
      }
      expect(turned).to.deep.equal([])
    })
  }

  for (const subject of subjects().filter(({ dialect }) => dialect.id in GAPS)) {
    it(`leaves no verdict of ${subject.name} sure and another than that of the whole`, () => {
      const before = outcomes(bench, subject, subject.text)
      const draw = draws(subject.name.length * 15485863 + 11)
      const turned: string[] = []
      for (let i = 0; i < TIMES; i++) {
        const cut = cutOff(subject, draw)
        if (!cut) continue
        for (const [rule, outcome] of outcomes(bench, subject, cut.text)) {
          const was = before.get(rule)
          if (was !== undefined && was !== outcome && !UNSURE.has(outcome))
            turned.push(`${rule}: ${outcome} where the whole says ${was}, cut at line ${cut.line}, ${lineAt(cut)}`)
        }
      }
      expect(turned).to.deep.equal([])
    })
  }

  for (const subject of subjects().filter(({ dialect }) => dialect.id !== 'data')) {
    it(`gives no packet through ${subject.name} another sure fate`, () => {
      const device = (text: string): NetworkDevice => ({
        name: subject.name,
        dialect: subject.dialect.id,
        modelled: modelOf(EffectiveConfig.of(subject.dialect.read(text), subject.dialect), {
          record: 'config',
          mask: () => '',
        }),
        reading: stateOf([]),
      })
      const fates = (text: string): Map<string, string> => {
        const network = Network.of([forwardingOf(device(text))])
        const walker = new Walker(network)
        const ports = network.devices[0]?.interfaces ?? []
        const addresses = ports.flatMap(({ addresses: own, kind }) =>
          kind === 'loopback' || kind === 'tunnel'
            ? []
            : own.filter(({ family, length }) => family === 'ipv4' && length < 31),
        )
        return new Map(
          ports.slice(0, 6).flatMap((port, at) =>
            port.addresses.length === 0
              ? []
              : [
                  ...addresses.slice(0, 5).map(({ text: address }) => address.replace(/\d+$/, '77')),
                  '192.0.2.77',
                ].flatMap((destination) =>
                  [22, 514].map((number): [string, string] => {
                    const source = (port.addresses.find(({ family }) => family === 'ipv4')?.text ?? '10.0.0.1').replace(
                      /\d+$/,
                      '66',
                    )
                    const packet: Packet = {
                      family: 'ipv4',
                      source,
                      destination,
                      protocol: number === 22 ? 6 : 17,
                      sourcePort: 40000,
                      destinationPort: number,
                      icmpType: null,
                      icmpCode: null,
                      tcpFlags: number === 22 ? ['syn'] : null,
                      fragment: false,
                      dscp: 0,
                    }
                    return [`${port.name} ${destination} ${number}`, traceOf(walker, 0, at, packet).fates.join()]
                  }),
                ),
          ),
        )
      }
      const before = fates(subject.text)
      const draw = draws(subject.name.length * 104729 + 29)
      const turned: string[] = []
      for (let i = 0; i < 2 * TIMES; i++) {
        const changed = i < TIMES ? garbled(subject, draw) : cutOff(subject, draw)
        if (!changed) continue
        for (const [packet, after] of fates(changed.text)) {
          const was = before.get(packet)
          if (was !== undefined && was !== after && !was.includes('undecided') && !after.includes('undecided'))
            turned.push(`${packet}: ${was} to ${after} by line ${changed.line}, ${lineAt(changed)}`)
        }
      }
      expect([...new Set(turned)].slice(0, 12)).to.deep.equal([])
    })
  }
})
