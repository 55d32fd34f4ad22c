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
  let out = ''
  let done = 0
  for (const [from, to] of dialect.secretsIn(line, block)) {
    if (from < done) continue
    out += line.slice(done, from) + mask(line.slice(from, to))
    done = to
  }
  return done === 0 ? line : out + line.slice(done)
}

/** The physical lines of a record, without endings and with every secret masked: all that leaves the core as text. */
export class MaskedLines {
  readonly #owner = new Map<number, ConfigNode>()

  constructor(
    readonly tree: LocatedTree,
    readonly dialect: Dialect,
    readonly mask: Mask,
  ) {
    for (const node of walk(tree.nodes)) for (let line = node.line; line <= node.lastLine; line++) this.#owner.set(line, node)
  }

  /** Text of a line, counted from 1. */
  at(line: number): string {
    const raw = (this.tree.lines[line - 1] ?? '').replace(/[\r\n]+$/, '')
    const owner = this.#owner.get(line)
    if (owner?.body !== undefined && owner.text.startsWith('-----BEGIN') && owner.text.includes('PRIVATE KEY')) {
      return line > owner.line && line < owner.lastLine ? this.mask(raw.trim()) : raw
    }
    if (owner?.body !== undefined) return raw
    return maskLine(raw, owner?.parent?.text ?? null, this.dialect, this.mask)
  }

  /** Lines `from` to `to`, both included, joined by newlines. */
  range(from: number, to: number): string {
    const out: string[] = []
    for (let line = from; line <= to; line++) out.push(this.at(line))
    return out.join('\n')
  }

  all(): string[] {
    return this.tree.lines.map((_, i) => this.at(i + 1))
  }
}
