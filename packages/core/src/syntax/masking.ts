import { Recent } from './recent.ts'
import { hmac } from '@noble/hashes/hmac.js'
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'
import type { Syntax } from './syntax.ts'
import { likeSecrets, mayHoldSecret, secretsAnywhere } from './secret-words.ts'
import { walk, type ConfigNode, type LocatedTree } from './located-tree.ts'

/**
 * Turns a secret into a mark that tells equal from different without telling the secret: `‹secret:1f3a9c07›`. Keyed
 * (HMAC-SHA256, RFC 2104), so that a dictionary of common words cannot be tried against a report.
 */
export type Mask = (secret: string) => string

export function maskWithKey(key: Uint8Array): Mask {
  const seen = new Map<string, string>()
  // What the key alone decides is worked out once.
  const keyed = hmac.create(sha256, key)
  return (secret) => {
    let mark = seen.get(secret)
    if (mark === undefined) {
      mark = `‹secret:${bytesToHex(keyed.clone().update(utf8ToBytes(secret)).digest()).slice(0, 8)}›`
      seen.set(secret, mark)
    }
    return mark
  }
}

const MARK = /‹secret:[\da-f]+›/g

/** Marks that tell nothing but that a secret stands there: what looks into a text finds no digits of a fingerprint. */
export function withoutFingerprints(text: string): string {
  return text.includes('‹secret:') ? text.replace(MARK, '‹secret›') : text
}

/**
 * Tells files apart without telling what they hold: `hmac-sha256:…`. A short secret behind its mask could be tried
 * against a plain hash of the file.
 */
export type Fingerprint = (sha256: string) => string

export function fingerprintWithKey(key: Uint8Array): Fingerprint {
  return (hash) => `hmac-sha256:${bytesToHex(hmac(sha256, key, utf8ToBytes(`record ${hash}`)))}`
}

export function sha256Hex(bytes: Uint8Array): string {
  return bytesToHex(sha256(bytes))
}

/** A secret that a person quotes in plain words: `the password is X`, `pwd: X`. */
const QUOTED = /(?<!‹)\b(?:password|passwd|passphrase|pwd|secret)\s*(?:is|was|:|=)\s*["']?([^\s"';,]{3,})/gi

function quotedIn(text: string): [number, number][] {
  return [...text.matchAll(QUOTED)].flatMap(({ 0: whole, 1: value = '', index }) =>
    value.startsWith('‹')
      ? []
      : [[index + whole.length - value.length, index + whole.length] satisfies [number, number]],
  )
}

/** A value by itself, whose name is not known: what people quote in it, and what looks like a secret. */
export function maskText(text: string, mask: Mask): string {
  return mayHoldSecret(text) ? replaced(text, [...quotedIn(text), ...likeSecrets(text)], mask) : text
}

/** Replaces the secrets of one command by their marks; `block` is the text of the opener around it. */
export function maskLine(line: string, block: string | null, dialect: Syntax, mask: Mask): string {
  return replaced(line, secretPlaces(line, block, dialect), mask)
}

/** Listings of one estate, and commands for its devices, repeat the same lines. */
const known = new Recent<readonly (readonly [number, number])[]>(20_000)
/** Longer lines are rare, and would fill memory. */
const KNOWN_LENGTH = 200

function secretPlaces(line: string, block: string | null, dialect: Syntax): readonly (readonly [number, number])[] {
  const key = line.length <= KNOWN_LENGTH ? `${dialect.id}\n${block ?? ''}\n${line}` : null
  const before = key === null ? undefined : known.get(key)
  if (before) return before
  // What the dialect knows goes before what any text shows: its places are the exact ones.
  const found = [...dialect.secretsIn(line, block), ...quotedIn(line), ...secretsAnywhere(line)]
  if (key !== null) known.set(key, found)
  return found
}

/** @param found places of secrets, of which the first of those that overlap counts */
function replaced(line: string, found: readonly (readonly [number, number])[], mask: Mask): string {
  if (found.length === 0) return line
  let out = ''
  let done = 0
  for (const [from, to] of found.toSorted(([a], [b]) => a - b)) {
    if (from < done) continue
    const text = line.slice(from, to)
    // What is a mark already stays the mark it is.
    out += line.slice(done, from) + (text.startsWith('‹secret:') ? text : mask(text))
    done = to
  }
  return out + line.slice(done)
}

/** The text of what a node stands in, as its dialect wants it to tell secrets; null at the top. */
export function blocksAround(node: ConfigNode, { around }: Syntax): string | null {
  return around ? around(node) : (node.parent?.text ?? null)
}

/** The physical lines of a record, without endings and with every secret masked: all that leaves the core as text. */
export class MaskedLines {
  /** By line, counted from 0. */
  #owners: readonly ConfigNode[] | null = null
  readonly #shown: (string | undefined)[] = []
  /**
   * What stands as a secret somewhere in the record, and so is one wherever else it stands; null where there is none.
   */
  #known: RegExp | null | undefined

  constructor(
    readonly tree: LocatedTree,
    readonly dialect: Syntax,
    readonly mask: Mask,
  ) {}

  /** Text of a line, counted from 1. */
  at(line: number): string {
    let shown = this.#shown[line]
    if (shown === undefined) this.#shown[line] = shown = this.#masked(line)
    return shown
  }

  #masked(line: number): string {
    const raw = withoutEnding(this.tree.lines.at(line - 1))
    this.#owners ??= ownersOf(this.tree)
    const owner = this.#owners[line - 1]
    if (owner?.body !== undefined && /-----BEGIN [A-Z ]*PRIVATE KEY/.test(owner.text)) {
      return line > owner.line && line < owner.lastLine ? this.mask(raw.trim()) : raw
    }
    if (owner?.body === undefined && owner?.command?.maybeSecret === false && !mayHoldSecret(raw) && !TEXT.test(raw))
      return raw
    const shown =
      owner?.body !== undefined && line !== owner.line
        ? this.#inText(raw, /^-----BEGIN|certificate/i.test(owner.text))
        : maskLine(raw, owner ? blocksAround(owner, this.dialect) : null, this.dialect, this.mask)
    return this.#withoutKnown(shown)
  }

  /** A line of a text, such as a banner: what is quoted there. */
  #inText(raw: string, isPublic: boolean): string {
    const found = isPublic ? quotedIn(raw) : [...quotedIn(raw), ...likeSecrets(raw)]
    return replaced(raw, found, this.mask)
  }

  #withoutKnown(text: string): string {
    this.#known ??= this.#secrets()
    return this.#known === null
      ? text
      : text.replace(this.#known, (_, before: string, secret: string) => `${before}${this.mask(secret)}`)
  }

  #secrets(): RegExp | null {
    const found = new Set<string>()
    const users = new Set<string>()
    for (const node of walk(this.tree.nodes)) {
      if (node.kind !== 'command' || node.body !== undefined) continue
      const user = USER.exec(node.text)?.[1]
      if (user !== undefined) users.add(user)
      if (node.command?.maybeSecret === false) continue
      for (const [from, to] of this.dialect.secretsIn(node.text, blocksAround(node, this.dialect))) {
        const secret = node.text.slice(from, to)
        if (secret.length >= SHORTEST && !secret.startsWith('‹') && !COMMON.has(secret.toLowerCase())) found.add(secret)
      }
    }
    // Who uses a name as a secret too: the name is no secret where it is a name.
    for (const user of users) found.delete(user)
    return found.size === 0
      ? null
      : new RegExp(
          `(^|[^\\w‹:-])(${[...found].map((one) => one.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')).join('|')})(?![\\w-])`,
          'g',
        )
  }

  /** Lines `from` to `to`, both included, joined by newlines. */
  range(from: number, to: number): string {
    const out: string[] = []
    for (let line = from; line <= to; line++) out.push(this.at(line))
    return out.join('\n')
  }

  all(): string[] {
    return Array.from({ length: this.tree.lines.length }, (_, i) => this.at(i + 1))
  }
}

/** Lines that name a user: with its blocks in braces, one word of them. */
const USER = /^(?:username|snmp-server user|(?:set )?(?:.*\blogin )?user) (\S+)/

/** Lines in which people write what they like. */
const TEXT = /\b(?:description|remark|banner|message|announcement|annotation|contact|location|comment|name)\b/i
/** Shorter ones stand in too many other words. */
const SHORTEST = 6
/** Default names that say nothing by themselves. */
const COMMON = new Set(['public', 'private', 'secret', 'password'])

function ownersOf(tree: LocatedTree): readonly ConfigNode[] {
  const owners: ConfigNode[] = []
  for (const node of walk(tree.nodes)) for (let line = node.line; line <= node.lastLine; line++) owners.push(node)
  return owners
}

function withoutEnding(line: string): string {
  let to = line.length
  while (to > 0 && (line.charCodeAt(to - 1) === 10 || line.charCodeAt(to - 1) === 13)) to--
  return line.slice(0, to)
}
