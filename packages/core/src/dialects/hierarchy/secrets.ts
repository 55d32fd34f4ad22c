import { tokensOf, type Token } from './phrase.ts'
import { namesSecrets } from '../../syntax/secret-words.ts'

/**
 * Where secrets stand in the braced dialect and its set lines: the word after one of these. From memory and common
 * practice; errs on the side of hiding.
 */
const INTRODUCES = new Set([
  'encrypted-password',
  'plain-text-password',
  'plain-text-password-value',
  'secret',
  'authentication-key',
  'simple-password',
  'password',
  'passphrase',
  'privacy-key',
  'authentication-password',
  'privacy-password',
  'shared-secret',
  'pre-shared-key',
  'cak',
  'key',
  'md5',
  'ssh-rsa',
  'ssh-dsa',
  'ssh-ecdsa',
  'ssh-ed25519',
  'community',
  'community-name',
  'trap-group',
  'ascii-text',
  'hexadecimal',
  'value',
])
const HINT = /passw|secret|key|communit|ascii-text|hexadecimal|md5|\bcak\b|passphrase|ssh-|"\$\d+\$|trap-group/i
/** Words between the one that introduces a secret and the secret. */
const BETWEEN = new Set(['ascii-text', 'hexadecimal', 'encrypted', 'format'])

export const maybeSecret = namesSecrets('ascii-text|hexadecimal|md5|ssh-|"\\$\\d+\\$|trap-group')

/** Words that may follow `password` and say what passwords have to be like. */
const PASSWORD_POLICY = /^(?:(?:minimum|maximum)-[a-z-]+|change-type|format)$/

const NONE: readonly [number, number][] = []

/** @param block text of the statement that opens the block around the line; of set lines null */
export function secretsIn(line: string, block: string | null): readonly [number, number][] {
  if (!HINT.test(line)) return NONE
  const tokens = [...tokensOf(line)].filter((token) => token.kind !== 'comment')
  const inSnmp = block === 'snmp' || tokens.some((token) => token.text === 'snmp')
  const found: [number, number][] = []
  for (let i = 0; i < tokens.length; i++) {
    const token = tokens[i]
    if (!token) continue
    if (token.kind === 'quoted' && /^\$\d+\$/.test(token.value)) found.push(inside(token))
    else if (token.kind === 'word' && introduces(token.text, tokens, i, block, inSnmp)) {
      let at = i + 1
      while (BETWEEN.has(tokens[at]?.text ?? '')) at++
      const secret = tokens[at]
      if (!secret || secret.kind === 'mark') continue
      found.push(inside(secret))
      i = at
    }
  }
  return found
}

/** Without its quotes, so that a quoted and a bare secret have one mark. */
function inside(token: Token): [number, number] {
  return token.kind === 'quoted' ? [token.from + 1, token.open ? token.to : token.to - 1] : [token.from, token.to]
}

function introduces(
  word: string,
  tokens: readonly Token[],
  at: number,
  block: string | null,
  inSnmp: boolean,
): boolean {
  if (!INTRODUCES.has(word)) return false
  switch (word) {
    // A policy's communities are lists of routes' marks; SNMP's are passwords.
    case 'community':
    case 'trap-group':
      return inSnmp && word === 'community'
    case 'password':
      // `password { minimum-length … }` is a policy.
      return tokens[at + 1]?.kind !== 'mark' && !PASSWORD_POLICY.test(tokens[at + 1]?.text ?? '')
    case 'key':
      // `server 10.0.0.1 key 5` names a key by its number; a key's own text stands in quotes.
      return tokens[at + 1]?.kind === 'quoted'
    case 'value':
      return block !== null && /^authentication-key\b/.test(block)
        ? true
        : tokens.some((token) => token.text === 'authentication-key')
    case 'md5':
      return tokens[at + 1]?.kind === 'quoted'
    case 'authentication-key':
      // `ntp authentication-key 1 type md5 value "…"`: what follows is the number of the key.
      return tokens[at + 1]?.kind === 'quoted'
    default:
      return true
  }
}
