import { Command } from '../../syntax/command.ts'
import { Scope, Statement } from '../../syntax/scope.ts'
import { NO_NODES, PhysicalLines, type ConfigNode } from '../../syntax/located-tree.ts'
import { maybeSecret } from './secrets.ts'

/**
 * What `sysctl -a` or a file of settings says: one statement a line, its words parted (`net ipv4 conf all rp_filter
 * 1`).
 */
export interface KernelSettings {
  readonly scope: Scope
  /** Lines that are no setting, counted from 1. */
  readonly unread: readonly number[]
}

/**
 * Reads `name = value` lines. In names, `.` parts words, and `/` stands for a `.` within a word (sysctl.d(5)). Never
 * throws.
 */
export function readKernelSettings(text: string): KernelSettings {
  const lines = new PhysicalLines(text)
  const statements: Statement[] = []
  const unread: number[] = []
  for (let at = 0; at < lines.length; at++) {
    const line = lines.at(at).trim()
    if (line === '' || line.startsWith('#') || line.startsWith(';')) continue
    const equals = line.indexOf('=')
    const name = line.slice(0, equals).trim().replace(/^-/, '')
    if (equals < 1 || /\s/.test(name)) {
      unread.push(at + 1)
      continue
    }
    const value = line.slice(equals + 1).trim()
    const words = [...name.split('.').map((word) => word.replaceAll('/', '.')), ...(value === '' ? [] : [value])]
    const node: ConfigNode = {
      kind: 'command',
      text: line,
      line: at + 1,
      lastLine: at + 1,
      parent: null,
      children: NO_NODES,
      block: undefined,
      command: null,
      body: undefined,
    }
    statements.push(
      new Statement(
        new Command(words.join(' '), false, false, name, null, maybeSecret(words.join(' ')), words),
        [node],
        undefined,
        null,
      ),
    )
  }
  return { scope: new Scope(statements, []), unread }
}
