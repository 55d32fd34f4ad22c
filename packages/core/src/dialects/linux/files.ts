import { Command } from '../../syntax/command.ts'
import { Scope, Statement } from '../../syntax/scope.ts'
import { NO_NODES, PhysicalLines, type ConfigNode } from '../../syntax/located-tree.ts'
import { maybeSecret } from './secrets.ts'

/** Files of a Linux gateway beside its filter rules, and what listens there (`ss -H -lntu`). */
export const SYSTEM_FILES = [
  'sshd_config',
  'chrony.conf',
  'ntp.conf',
  'rsyslog.conf',
  'login.defs',
  'resolv.conf',
  'timezone',
  'sockets',
] as const
export type SystemFile = (typeof SYSTEM_FILES)[number]

/** Splits words, with what stands in quotes as one. */
function wordsOf(line: string): string[] {
  return (line.match(/"[^"]*"|\S+/g) ?? []).map((word) => word.replace(/^"(.*)"$/, '$1'))
}

type Normalise = (line: string) => string[]

/** Lines of rsyslog.conf: what is selected and where it goes, old directives, and actions with their parameters. */
const rsyslog: Normalise = (line) => {
  const action = /^([a-z_]+)\s*\((.*)\)$/i.exec(line)
  if (action) {
    const parameters = [...(action[2] ?? '').matchAll(/(?<![\w.])([\w.]+)\s*=\s*"([^"]*)"/g)].map(
      ([, name = '', value = '']) => `${name.toLowerCase()}=${value}`,
    )
    return ['call', (action[1] ?? '').toLowerCase(), ...parameters.sort()]
  }
  if (line.startsWith('$')) return ['directive', ...wordsOf(line.slice(1))]
  const [selector = '', ...target] = wordsOf(line)
  return ['selector', selector, ...target]
}

const NORMALISE: Readonly<Partial<Record<SystemFile, Normalise>>> = {
  // Key words are case-insensitive, and may be parted from their values by "=" (sshd_config(5)).
  sshd_config: (line) => {
    const [word = '', ...rest] = wordsOf(line.replace(/^(\w+)\s*=\s*/, '$1 '))
    return [word.toLowerCase(), ...rest]
  },
  'rsyslog.conf': rsyslog,
  timezone: (line) => ['zone', line],
  sockets: (line) => ['listens', ...wordsOf(line)],
}

/**
 * Reads such a file: one statement a line, continued ones joined; what stands under `Match` is within it. Never throws.
 */
export function readSystemFile(file: SystemFile, text: string): Scope {
  const lines = new PhysicalLines(text)
  const top: Statement[] = []
  let within: Statement[] | null = null
  for (let at = 0; at < lines.length; at++) {
    const from = at
    let line = lines.at(at).trim()
    if (line === '' || /^[#;!]/.test(line)) continue
    // A call of rsyslog goes on until its parentheses are closed; other lines where they end in a backslash.
    while (
      at + 1 < lines.length &&
      (line.endsWith('\\') || (file === 'rsyslog.conf' && /^[a-z_]+\s*\([^)]*$/i.test(line)))
    )
      line = `${line.replace(/\\$/, '')} ${lines.at(++at).trim()}`
    const words = (NORMALISE[file] ?? wordsOf)(line)
    const node: ConfigNode = {
      kind: 'command',
      text: line,
      line: from + 1,
      lastLine: at + 1,
      parent: null,
      children: NO_NODES,
      block: undefined,
      command: null,
      body: undefined,
    }
    const statement = new Statement(
      new Command(words.join(' '), false, false, words.join(' '), null, maybeSecret(words.join(' ')), words),
      [node],
      undefined,
      null,
    )
    if (file === 'sshd_config' && words[0] === 'match')
      top.push(new Statement(statement.command, [node], undefined, new Scope((within = []), [node])))
    else (within ?? top).push(statement)
  }
  return new Scope(top, [])
}
