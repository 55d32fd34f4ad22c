import {
  NO_NODES,
  PhysicalLines,
  type ConfigNode,
  type Fault,
  type LocatedTree,
  type NodeKind,
} from '../../syntax/located-tree.ts'
import { FRAME } from './frame.ts'
import { phraseOf } from './phrase.ts'

export const VERBS = new Set([
  'set',
  'delete',
  'deactivate',
  'activate',
  'protect',
  'unprotect',
  'annotate',
  'insert',
  'rename',
  'copy',
])
const PAGING = /^-{2,3}\(?more(?: \d+%)?\)?-{2,3}/i
const ERROR = /^(?:error|syntax error|unknown command)\b[:,. ]/i

/** Reads set lines, one command a line. Never throws; takes time linear in the length of the text. */
export function readSetLines(text: string): LocatedTree {
  const lines = new PhysicalLines(text)
  const nodes: ConfigNode[] = []
  const faults: Fault[] = []
  const unread: number[] = []
  let hostname: string | null = null
  for (let at = 0; at < lines.length; at++) {
    const line = lines.at(at).trim()
    const kind = kindOf(line)
    nodes.push({
      kind,
      text: line,
      line: at + 1,
      lastLine: at + 1,
      parent: null,
      children: NO_NODES,
      block: undefined,
      command: null,
      body: undefined,
    })
    if (kind === 'command') {
      hostname = hostnameIn(line) ?? hostname
      if (hasOpenQuote(line)) faults.push({ line: at + 1, reason: 'the quoted text in this line is not closed' })
    } else if (kind === 'frame') {
      if (PAGING.test(line))
        faults.push({
          line: at + 1,
          reason: 'a paging prompt was captured with the listing: lines may be missing here',
        })
      else if (ERROR.test(line))
        faults.push({ line: at + 1, reason: `the device answered with an error: ${line.slice(0, 80)}` })
      else if (!FRAME.test(line)) unread.push(at + 1)
    }
  }
  return { dialect: 'setlines', lines, nodes, faults, unread, hostname }
}

function kindOf(line: string): NodeKind {
  if (line === '') return 'separator'
  if (line.startsWith('#') || line.startsWith('/*')) return 'comment'
  const space = line.indexOf(' ')
  return VERBS.has(space < 0 ? line : line.slice(0, space)) ? 'command' : 'frame'
}

function hostnameIn(line: string): string | null {
  if (!line.startsWith('set system host-name ')) return null
  return phraseOf(line).words[3] ?? null
}

function hasOpenQuote(line: string): boolean {
  if (!line.includes('"')) return false
  let open = false
  for (let i = 0; i < line.length; i++) {
    if (line.charAt(i) === '\\') i++
    else if (line.charAt(i) === '"') open = !open
  }
  return open
}
