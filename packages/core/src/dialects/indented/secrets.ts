/**
 * Where secrets stand in a line of the indented dialect. Works on tokens, so its cost is linear in the line. From
 * memory and common practice; errs on the side of hiding.
 */
import { namesSecrets } from '../../syntax/secret-words.ts'

const HINT = /passw|secret|key|communit|snmp-server host|auth|passphrase|psk|md5|\bpriv\b/i
const TYPE =
  /^(?:\d|encrypted|unencrypted|ascii|hex|clear|cleartext|hidden|local|remote|text|md5|sha|key-string|0x\w{1,2})$/i
/** The rest of the line is the secret: these may hold spaces. */
const TO_END = /^(?:username|enable|password|secret)$/i
const FREE =
  /^(?:description|remark|banner|alias|hostname|interface|class-map|policy-map|route-map|ip access-list|object-group|aaa group|rsakeypair|router)\b/i

interface Token {
  readonly text: string
  readonly from: number
  readonly to: number
}

export const maybeSecret = namesSecrets('auth|snmp-server host|md5|\\bpriv\\b')

const NONE: [number, number][] = []

export function secretsIn(line: string, block: string | null): readonly [number, number][] {
  if (!HINT.test(line)) return NONE
  const tokens = tokensOf(line)
  while (tokens.length > 0 && /^(?:no|default|!+)$/i.test(tokens[0]?.text ?? '')) tokens.shift()
  const words = tokens.map((token) => token.text.toLowerCase())
  const text = words.join(' ')
  if (
    FREE.test(text) ||
    /^(?:password|service|security|aaa) (?:encryption|policy|passwords?|password-\w+|authentication|authorization|accounting)\b/.test(
      text,
    )
  )
    return []
  const found = communityOrUser(words) ?? keyed(words, block)
  return found.flatMap((i): [number, number][] => {
    const token = tokens[i]
    if (!token) return []
    const last = TO_END.test(words[0] ?? '') && !words.includes('address') ? tokens.at(-1) : token
    return [[token.from, (last ?? token).to]]
  })
}

function communityOrUser(words: readonly string[]): number[] | null {
  if (words[0] !== 'snmp-server') return null
  if (words[1] === 'community')
    return [words.length > 3 && /^[0-9]$/.test(words[2] ?? '') && !/^(?:ro|rw|view|ipv6)$/.test(words[3] ?? '') ? 3 : 2]
  if (words[1] === 'host') {
    const at = communityOfHost(words)
    return at === null ? [] : [at]
  }
  if (words[1] === 'user') {
    // … auth sha SECRET priv aes 128 SECRET
    const out: number[] = []
    const auth = words.indexOf('auth', 4)
    if (auth > 0) out.push(auth + 2)
    const priv = words.indexOf('priv', auth > 0 ? auth + 3 : 4)
    if (priv > 0) out.push(/^(?:128|192|256)$/.test(words[priv + 2] ?? '') ? priv + 3 : priv + 2)
    return out
  }
  return []
}

/**
 * Index of the community in `snmp-server host A [vrf V] [traps|informs] [version V [level]] COMMUNITY …`. The word
 * after `version 3` names a user, which is no secret; it is hidden all the same, as its place is the same.
 */
export function communityOfHost(words: readonly string[]): number | null {
  let i = 3
  if (words[i] === 'vrf') i += 2
  if (words[i] === 'traps' || words[i] === 'informs') i++
  if (words[i] === 'version') {
    i += 1
    if (words[i] === '3') i += /^(?:auth|noauth|priv)$/.test(words[i + 1] ?? '') ? 2 : 1
    else i += 1
  }
  if (words[i] === 'vrf') i += 2
  return i < words.length ? i : null
}

function keyed(words: readonly string[], block: string | null): number[] {
  const out: number[] = []
  // The word after `username` is a name, whatever it says.
  for (let i = words[0] === 'username' ? 2 : 0; i < words.length; i++) {
    if (!introduces(words, i, block)) continue
    let at = i + 1
    while (TYPE.test(words[at] ?? '') && at + 1 < words.length) at++
    if (words[at] === 'level' && at + 2 < words.length) {
      at += 2
      while (TYPE.test(words[at] ?? '') && at + 1 < words.length) at++
    }
    if (at < words.length && !introduces(words, at, block)) {
      out.push(at)
      i = at
    }
  }
  return out
}

/** Whether the word at `i` says that a secret follows. */
function introduces(words: readonly string[], i: number, block: string | null): boolean {
  const word = words[i] ?? ''
  const before = words[i - 1] ?? ''
  switch (word) {
    case 'password':
    case 'secret':
    case 'key-string':
    case 'passphrase':
    case 'domain-password':
    case 'area-password':
    case 'pre-shared-key':
    case 'wpa-psk':
    case 'authentication-key':
    case 'community':
      // `ntp authentication-key 1 md5 SECRET`: the word that follows is a number.
      return (
        !(word === 'authentication-key' && words[0] === 'ntp') && !(word === 'community' && words[0] !== 'snmp-server')
      )
    case 'md5':
    case 'sha1':
    case 'hmac-sha1':
    case 'hmac-sha2-256':
    case 'cmac-aes-128':
      return (
        /^\d+$/.test(before) &&
        (words[0] === 'ntp' || words.includes('message-digest-key') || words[0] === 'message-digest-key')
      )
    case 'authentication':
      return (
        (words[0] === 'standby' ||
          words[0] === 'vrrp' ||
          words[0] === 'glbp' ||
          (words[0] === 'ip' && words[1] === 'nhrp')) &&
        i >= 1
      )
    case 'key':
      if (words[0] === 'ntp' || words[0] === 'tunnel' || (words[1] === 'key' && words[0] === 'crypto')) return false
      if (i === 0)
        return (
          words.length > 1 &&
          words[1] !== 'chain' &&
          words[1] !== 'config-key' &&
          !(block !== null && /^key chain /i.test(block))
        )
      return (
        before === 'isakmp' ||
        /^(?:server-private|tacacs-server|radius-server|server|pac)$/.test(words[0] ?? '') ||
        words[0] === 'key'
      )
    default:
      return false
  }
}

function tokensOf(line: string): Token[] {
  const tokens: Token[] = []
  const word = /\S+/g
  for (let found = word.exec(line); found; found = word.exec(line)) {
    tokens.push({ text: found[0], from: found.index, to: found.index + found[0].length })
  }
  return tokens
}
