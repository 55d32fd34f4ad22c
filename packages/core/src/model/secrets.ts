import type { Mask } from '../syntax/index.ts'
import type { Secret } from './schema/index.ts'

type Kind = Secret['kind']

/**
 * Kinds that an attacker who has the listing cannot simply undo or guess at speed (RFC 8018, RFC 7914; common
 * practice).
 */
const STRONG: ReadonlySet<Kind> = new Set<Kind>(['scrypt', 'pbkdf2', 'sha256-crypt', 'sha512-crypt', 'bcrypt'])

/** The numbers by which the indented dialect says how a secret is kept. Common practice. */
const BY_TYPE: Readonly<Record<string, Kind>> = {
  '0': 'clear',
  '4': 'sha256',
  '5': 'md5-crypt',
  '6': 'reversible',
  '7': 'reversible',
  '8': 'pbkdf2',
  '9': 'scrypt',
}

/** Prefixes of crypt(3) and its relatives. */
const BY_PREFIX: readonly [RegExp, Kind][] = [
  [/^\$1\$/, 'md5-crypt'],
  [/^\$5\$/, 'sha256-crypt'],
  [/^\$6\$/, 'sha512-crypt'],
  [/^\$2[abxy]?\$/, 'bcrypt'],
  [/^\$sha1\$/, 'sha1'],
  [/^\$(?:7|scrypt)\$/, 'scrypt'],
]

export function secretOfType(type: string | null, text: string, mask: Mask): Secret {
  return secret((type === null ? null : BY_TYPE[type]) ?? kindByPrefix(text) ?? 'clear', text, mask)
}

/** In the braced dialect `$9$` stands for what can be undone, and a text without a prefix is clear. */
export function secretOfHierarchy(text: string, mask: Mask): Secret {
  return secret(/^\$[89]\$/.test(text) ? 'reversible' : (kindByPrefix(text) ?? 'clear'), text, mask)
}

export function secret(kind: Kind, text: string, mask: Mask): Secret {
  return { kind, strong: STRONG.has(kind), fingerprint: mask(text) }
}

function kindByPrefix(text: string): Kind | null {
  return BY_PREFIX.find(([prefix]) => prefix.test(text))?.[1] ?? null
}

/** Communities that devices come with, and that everyone tries first. Common practice. */
export function isDefaultCommunity(community: string): boolean {
  return /^(?:public|private)$/i.test(community)
}
