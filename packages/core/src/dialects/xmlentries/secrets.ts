import { namesSecrets } from '../../syntax/secret-words.ts'

/** Elements whose text is a secret. From memory and common practice; errs on the side of hiding. */
const NAMES =
  'phash|password|passphrase|key|pre-shared-key|secret|shared-secret|snmp-community-string|community|authpwd|privpwd|' +
  'auth-password|priv-password|bind-password|private-key|admin-password|api-key|token|md5|authentication-key|public-key'
const TAG = new RegExp(`<(${NAMES})>([^<]+)`, 'g')
const PATH = new RegExp(`(?:^|\\s)(?:${NAMES})\\s+(?:"((?:[^"\\\\]|\\\\.)*)"|(\\S+))$`)
/** Elements that are called so and hold no secret: which algorithm, how long. */
const HARMLESS = /^(?:yes|no|auto|main|none|disabled|enabled)$/

export const maybeSecret = namesSecrets('phash|pwd|communit|md5')

const NONE: readonly [number, number][] = []

export function secretsIn(line: string): readonly [number, number][] {
  if (!maybeSecret(line)) return NONE
  const inTags = [...line.matchAll(TAG)].flatMap((found): [number, number][] => {
    const secret = found[2] ?? ''
    const to = found.index + found[0].length
    return HARMLESS.test(secret.trim()) ? [] : [[to - secret.length, to]]
  })
  if (inTags.length > 0 || line.includes('<')) return inTags
  // As a statement of the tree is written: names, then the value.
  const stated = PATH.exec(line)
  const secret = stated?.[1] ?? stated?.[2] ?? ''
  if (!stated || secret === '' || HARMLESS.test(secret)) return NONE
  const to = stated.index + stated[0].length - (stated[1] === undefined ? 0 : 1)
  return [[to - secret.length, to]]
}
