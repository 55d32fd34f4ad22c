import { namesSecrets } from '../../syntax/secret-words.ts'

/**
 * Names of values that are secrets: passwords, shared keys, keys of servers and of messages. From memory and common
 * practice; errs on the side of hiding.
 */
const NAMES =
  /^(?:.*(?:passw|passphrase|secret|psk|pwd).*|password\d*|(?:secondary-|tertiary-)?key\d*|keytab|private-key|(?:auth|priv|enc|authentication)-?key|auth(?:entication)?-string|token|api-?key|community|fortitoken|seed|ppk|md5-key|key-string|sae-password|wep-?key\d*)$/i
/** Names that go with them and hold none: what passwords have to be like, how long they last. */
const HARMLESS =
  /^(?:password-(?:policy|expire|renewal|attr|change-.*|hash.*|minimum.*)|passwd-(?:policy|time|renewal)|(?:.*-)?(?:min|max|minimum|maximum|expire|expiry|length|policy|status|type|encoding|mode|history|lifetime|reuse|warn)(?:-.*)?|secret-type|psk-mode|force-password-change|two-factor.*)$/i
/** How a secret is written, before it. */
const WRITTEN = /^(?:ENC|AES|HASH|SH2|PLAIN)$/
const LINE = /^\s*(?:(?:config|edit)\b.*\s)?(?:set|append)\s+([\w-]+)\s+/

export const maybeSecret = namesSecrets('community|passw|\\bENC\\b|auth|config system snmp community')

const NONE: readonly [number, number][] = []

/** @param block the blocks around the line, outermost first, as one text */
export function secretsIn(line: string, block: string | null): readonly [number, number][] {
  const set = LINE.exec(line)
  if (!set) return NONE
  const name = (set[1] ?? '').toLowerCase()
  const around = block ?? line
  // The name of an entry among the communities of SNMP is what lets people in.
  const isCommunity = name === 'name' && /^config system snmp community\b/.test(around)
  if (!isCommunity && (!NAMES.test(name) || HARMLESS.test(name))) return NONE
  return valuesFrom(line, set[0].length)
}

/** The values of a statement, without their quotes. */
function valuesFrom(line: string, from: number): [number, number][] {
  const found: [number, number][] = []
  const value = /"((?:[^"\\]|\\.)*)"?|'([^']*)'?|\S+/g
  value.lastIndex = from
  for (let match = value.exec(line); match; match = value.exec(line)) {
    const inner = match[1] ?? match[2]
    const text = inner ?? match[0]
    if (text === '' || (inner === undefined && WRITTEN.test(text))) continue
    const begin = match.index + (inner === undefined ? 0 : 1)
    found.push([begin, begin + text.length])
  }
  return found
}
