/**
 * What is a secret in any text, whatever its dialect: the value after a word that goes with secrets, unless what
 * follows is known to be none, and whatever looks like one. Errs on the side of hiding. Linear in the length of the
 * line.
 */

/** A name that ends in one of these holds a secret: `server-key`, `authPassword`, `api_token`. */
const NAME =
  /(?:^|[-_.:])(?:passwords?|passwd|passphrase|passkey|passcode|pass|pwd|secrets?|psk|communit(?:y|ies)(?:-(?:map|name|index))?|text-name|key-octet-string|credentials?|cak|apikey|keys?|key-?string|pin|password-?hash|pw)\d{0,2}$|tokens?\d{0,2}$/
/** Names that end so and hold none. */
const NO_SECRET =
  /(?:^|[-_.:])(?:public-?key|pub-?key|trusted-key|host-?key|hostkey|send-community|foreign-key|primary-key|active-key|send-key|accept-key|bypass|by-pass|compass|all-pass|low-pass|no-password|change-password)$/

/** Words between a name and its secret: how it is written, of whom, and for what. */
const BETWEEN =
  /^(?:\d{1,2}|encrypted|unencrypted|ascii|ascii-text|hex|hexadecimal|clear|cleartext|clear-text|plain|plaintext|plain-text|hidden|local|remote|text|type|value|simple|simple-password|md5|sha-?\d*|hmac-[\w-]+|cmac-[\w-]+|aes[\w-]*|3?des|key-string|level|spi|0x[\da-f]{1,2}|=|:|is|was|name:|string:|index:|peer|neighbor|fallback|option|for|required|config-key|password-encrypt|algorithm|string|encoding|size|\d+bits?|\d+(?:\.\d+){3})$/i

const ALGORITHM = /^(?:md5|sha-?\d+|hmac-[\w-]+|cmac-[\w-]+|aes[\w-]*|3?des)$/i

/** Words after a name that say what secrets have to be like, or which of them is meant; never a secret. */
const HARMLESS =
  /^(?:chains?|key-?chains?|generate|generated|export|exportable|import|zeroize|exchange|mode|modulus|groups?|policy|policies|encryption|recovery|strength|length|min[\w-]*|max[\w-]*|format|lifetime|history|aging|expir\w*|prompt|retry|retries|authentication|authorization|accounting|id|ids|list|lists|map|storage|server|servers|service|services|required|restriction|complexity|change[\w-]*|none|enable|enabled|disable|disabled|default|bucket|ring|rsa|dsa|ecdsa|ed25519|ec|usage-keys|general-keys|label|pubkey-chain|additive|no-export|no-advertise|local-as|internet|members|delete|add|set|match|hash|config|rollover|duration|both|standard|extended|not|must|in|of|to|the|and|or|with|on|at|from|desk|manager|office|holder|protected|settings|true|false|null|yes|no|prompt-level|attempts?|timeout|session|rotation|management|store|ring)$/i

/** Words that end a secret of several words. */
const AFTER =
  /^(?:ro|rw|view|ipv6|ipv4|privilege|role|address|hostname|auth-port|acct-port|timeout|retransmit|udp-port|version|v1|v2c|v3|priv|auth|access|read-only|read-write|level-1|level-2|snp|send-only|mask|idle|level|username|user|secret|password|key|vrf|port|encrypted|class|uid|group|attribute|pool|nopassword|mschap|nt-encrypted|single-connection|source-interface|context|notify|remote|local|#+|\/\*|\/\/)$/i

/** Lines in which people write what they like: only what looks like a secret is one. */
const FREE =
  /^\s*(?:description|remark|banner|alias|annotation|contact|location|message|hostname|host-name|class-map|policy-map|route-map|object-group|prefix-list|community-list|ip (?:community|prefix|as-path|extcommunity)|ip access-list|key chain|rsakeypair|aaa group|interface|router)\b/i

const FREE_PATH = /^\s*set\s.*\s(?:description|message|announcement|location|contact) (?:"[^"]*"|\S+)$/

/**
 * No line without one of these, or without a long word, holds a secret. Asked of every line, so that each dialect asks
 * for them together with words of its own.
 */
const NAMED_WORDS = 'authentication|text-name|pass|pwd|secret|psk|token|commun|cred|cak|key|\\bpin\\b|\\bpw\\b'
const NAMED = new RegExp(NAMED_WORDS, 'i')

/** Whether a text holds a word that goes with secrets, or one of a dialect. @param more alternatives of a pattern */
export function namesSecrets(more: string): (text: string) => boolean {
  const words = new RegExp(more === '' ? NAMED_WORDS : `${NAMED_WORDS}|${more}`, 'i')
  return (text) => words.test(text)
}

const SIGNED = /:\/\/\S*@|[?&][\w-]*=|\$\w{1,10}\$/
/** Letters and digits in a row that a word seldom has. */
const LONG_WORD = 16
/** Places where letters and digits meet that no word has. */
const CHANGES = 3

type Range = [from: number, to: number]

/** Whether a line may hold a secret at all. */
export function mayHoldSecret(line: string): boolean {
  return looksSecret(line) || NAMED.test(line)
}

/** Whether something in a line looks like a secret, whatever stands before it. */
export function looksSecret(line: string): boolean {
  return hasLongWord(line) || (hasSign(line) && SIGNED.test(line))
}

/** Signs without which no hash, and no address with a password, is written. */
function hasSign(line: string): boolean {
  return line.includes('$') || line.includes('=') || line.includes('@')
}

function hasLongWord(line: string): boolean {
  // A run as long as that covers one of these places.
  for (let at = LONG_WORD - 1; at < line.length; at += LONG_WORD) {
    if (!isOfBase64(line.charCodeAt(at))) continue
    let from = at
    while (from > 0 && isOfBase64(line.charCodeAt(from - 1))) from--
    let to = at + 1
    while (to < line.length && isOfBase64(line.charCodeAt(to))) to++
    if (to - from >= LONG_WORD && looksRandom(line, from, to)) return true
  }
  return false
}

/** Hexadecimal digits in a row, or letters of both kinds among digits: `GigabitEthernet1/0/11` is neither. */
function looksRandom(line: string, from: number, to: number): boolean {
  let hex = 0
  let changes = 0
  let upper = false
  let lower = false
  let before = 0
  for (let at = from; at < to; at++) {
    const code = line.charCodeAt(at)
    const isDigit = code >= 48 && code <= 57
    const isLower = code >= 97 && code <= 122
    const isUpper = code >= 65 && code <= 90
    hex = isDigit || (isLower && code <= 102) || (isUpper && code <= 70) ? hex + 1 : 0
    if (hex >= LONG_WORD) return true
    upper ||= isUpper
    lower ||= isLower
    const kind = isDigit ? 1 : isLower || isUpper ? 2 : 0
    if (kind !== 0 && before !== 0 && kind !== before) changes++
    before = kind
  }
  return upper && lower && changes >= CHANGES
}

/** Letters, digits, plus and slash (RFC 4648). */
function isOfBase64(code: number): boolean {
  return (code >= 97 && code <= 122) || (code >= 47 && code <= 57) || (code >= 65 && code <= 90) || code === 43
}

export function secretsAnywhere(line: string): Range[] {
  if (!mayHoldSecret(line)) return []
  return [...(FREE.test(line) || FREE_PATH.test(line) ? [] : namedIn(line)), ...likeSecrets(line)]
}

interface Word {
  readonly text: string
  readonly from: number
  readonly to: number
  readonly quoted: boolean
  /** Ends a statement: nothing after it belongs to what stands before. */
  readonly mark: boolean
}

function wordsOf(line: string): Word[] {
  const words: Word[] = []
  for (const found of line.matchAll(/"(?:[^"\\]|\\.)*"?|'[^']*'?|[;{}[\],]|<\/?|>|[^\s"';{}[\],<>]+/g)) {
    const [text] = found
    const quoted = text.startsWith('"') || text.startsWith("'")
    const closed = quoted && text.length > 1 && text.at(-1) === text[0]
    const from = found.index + (quoted ? 1 : 0)
    const to = found.index + text.length - (closed ? 1 : 0)
    words.push({ text: line.slice(from, to), from, to, quoted, mark: !quoted && /^(?:[;{}[\],]|<\/?|>)$/.test(text) })
  }
  return words
}

/** Values of names that go with secrets. */
function namedIn(line: string): Range[] {
  const words = wordsOf(line)
  const found: Range[] = []
  for (let i = 0; i < words.length; i++) {
    const word = words[i]
    if (!word || word.mark) continue
    const joined = valueWithin(word)
    if (joined) found.push(joined)
    else if (isName(word, words[i + 1], line) || isAuthentication(words, i)) {
      const value = valueOf(words, i)
      if (!value) continue
      found.push([value.first.from, value.last.to])
      i = value.at
    }
  }
  return found
}

/** `password=hush`, `key:hush` in one word. */
function valueWithin({ text, from, to, quoted }: Word): Range | null {
  const at = quoted ? -1 : text.search(/[=:]/)
  if (at <= 0 || at === text.length - 1 || text.startsWith('//', at + 1)) return null
  return named(text.slice(0, at)) ? [from + at + 1, to] : null
}

function isName(word: Word, next: Word | undefined, line: string): boolean {
  const text = word.text.replace(/[:=]$/, '')
  if (!named(text)) return false
  // Routes have communities as well: those of SNMP are secrets.
  if (/communit(?:y|ies)\d*$/i.test(text))
    return (
      /snmp|trap/i.test(line) ||
      word.quoted ||
      word.text.endsWith(':') ||
      next?.text.endsWith(':') === true ||
      next?.text === '>' ||
      next?.text === '='
    )
  return true
}

/** `authentication string X`, `authentication mode hmac-sha-256 X`, `nhrp authentication X`. */
function isAuthentication(words: readonly Word[], at: number): boolean {
  if (words[at]?.text !== 'authentication') return false
  const [before, next, after, last] = [words[at - 1], words[at + 1], words[at + 2], words[at + 3]].map(
    (word) => word?.text ?? '',
  )
  if (before === 'nhrp' || next === 'string' || next === 'text') return after !== '' || before === 'nhrp'
  return next === 'mode' && after?.startsWith('hmac-') === true && last !== ''
}

function named(text: string): boolean {
  const plain = text.replace(/([a-z\d])([A-Z])/g, '$1-$2').toLowerCase()
  return NAME.test(plain) && !NO_SECRET.test(plain)
}

function valueOf(
  words: readonly Word[],
  name: number,
): { readonly first: Word; readonly last: Word; readonly at: number } | null {
  let at = name + 1
  if (words[at]?.text === '>' || (words[name]?.text === 'authentication' && words[at]?.text === 'mode')) at++
  while (BETWEEN.test(words[at]?.text ?? '') && words[at]?.quoted === false && words[at + 1] && !words[at + 1]?.mark)
    at++
  const first = words[at]
  // `authentication-key 1 type sha1` says how the key is used.
  if (first && /^(?:type|algorithm)$/i.test(words[at - 1]?.text ?? '') && ALGORITHM.test(first.text)) return null
  if (
    !first ||
    first.mark ||
    first.text === '' ||
    (!first.quoted && (HARMLESS.test(first.text) || first.text.startsWith('‹') || named(first.text)))
  )
    return null
  const isKey = /key\d*$/i.test(words[name]?.text ?? '') && words[name + 1]?.text !== 'config-key'
  // A key is often named by its number, as in `server 192.0.2.1 key 5`.
  if (isKey && /^\d{1,5}$/.test(first.text)) return null
  let end = at
  while (
    !isKey &&
    !first.quoted &&
    words[end + 1] &&
    !words[end + 1]?.mark &&
    !AFTER.test(words[end + 1]?.text ?? '') &&
    !named(words[end + 1]?.text ?? '')
  )
    end++
  return { first, last: words[end] ?? first, at: end }
}

/** Crypt's hashes, and what stands with a user in an address. */
const HASH = /\$(?:\d\w?|2[aby]|y|gy|apr1|sha1|scrypt|pbkdf2[\w-]*|argon2\w*)\$[^\s"';,<>]+/g
const IN_ADDRESS = /:\/\/[^\s/@"']*@/g
const IN_QUERY = /[?&][\w-]*(?:token|key|secret|passw(?:or)?d|pwd|sig|signature|auth)=([^&\s"']+)/gi
const HEX = /(?<![\w$])(?:0x)?[\da-fA-F]{16,}(?![\w$])/g
const BASE64 = /(?<![\w+/=$‹:-])[A-Za-z\d+/]{16,}={0,2}(?![\w+/])/g

/** What looks like a secret wherever it stands. */
export function likeSecrets(line: string): Range[] {
  const found: Range[] = []
  for (const { 0: text, index } of line.matchAll(HASH)) found.push([index, index + text.length])
  for (const { 0: text, index } of line.matchAll(IN_ADDRESS)) {
    // Of `user:password@` the password; a user alone may be a token.
    const colon = text.indexOf(':', 3)
    const from = index + (colon < 0 ? 3 : colon + 1)
    const to = index + text.length - 1
    if (to > from && (colon >= 0 || to - from >= 16)) found.push([from, to])
  }
  for (const { 0: text, 1: value = '', index } of line.matchAll(IN_QUERY))
    found.push([index + text.length - value.length, index + text.length])
  for (const { 0: text, index } of line.matchAll(HEX))
    if (new Set(text).size > 4) found.push([index, index + text.length])
  for (const { 0: text, index } of line.matchAll(BASE64)) if (isByChance(text)) found.push([index, index + text.length])
  return found
}

/** Letters of both kinds and digits, in an order that no word has. */
function isByChance(text: string): boolean {
  if (!/[a-z]/.test(text) || !/[A-Z]/.test(text)) return false
  return (text.match(/\d[A-Za-z]|[A-Za-z](?=\d)/g) ?? []).length >= CHANGES
}
