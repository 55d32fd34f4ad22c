import { hmac } from '@noble/hashes/hmac.js'
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'
import type { Dialect } from './dialect.ts'
import { walk, type ConfigNode, type LocatedTree } from './located-tree.ts'

/**
 * Turns a secret into a mark that tells equal from different without telling the secret: `‹secret:1f3a9c07›`.
 * Keyed (HMAC-SHA256, RFC 2104), so that a dictionary of common words cannot be tried against a report.
 */
export type Mask = (secret: string) => string

export function maskWithKey(key: Uint8Array): Mask {
  const seen = new Map<string, string>()
  return (secret) => {
    let mark = seen.get(secret)
    if (mark === undefined) {
      mark = `‹secret:${bytesToHex(hmac(sha256, key, utf8ToBytes(secret))).slice(0, 8)}›`
      seen.set(secret, mark)
    }
    return mark
  }
}

export function sha256Hex(bytes: Uint8Array): string {
  return bytesToHex(sha256(bytes))
}

/** Replaces the secrets of one command by their marks; `block` is the text of the opener around it. */
export function maskLine(line: string, block: string | null, dialect: Dialect, mask: Mask): string {
  const secret = dialect.secretsIn(line, block)
  if (secret.length === 0) return line
  let out = ''
  let done = 0
  for (const [from, to] of secret) {
    if (from < done) continue
    const text = line.slice(from, to)
    // What is a mark already stays the mark it is.
    out += line.slice(done, from) + (text.startsWith('‹secret:') ? text : mask(text))
    done = to
  }
  return out + line.slice(done)
}

/** The physical lines of a record, without endings and with every secret masked: all that leaves the core as text. */
export class MaskedLines {
  /** By line, counted from 0. */
  #owners: readonly ConfigNode[] | null = null
  readonly #shown: (string | undefined)[] = []

  constructor(
    readonly tree: LocatedTree,
    readonly dialect: Dialect,
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
    if (owner?.body !== undefined && owner.text.startsWith('-----BEGIN') && owner.text.includes('PRIVATE KEY')) {
      return line > owner.line && line < owner.lastLine ? this.mask(raw.trim()) : raw
    }
    if (owner?.body !== undefined || owner?.command?.maybeSecret === false) return raw
    return maskLine(raw, owner?.parent?.text ?? null, this.dialect, this.mask)
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
