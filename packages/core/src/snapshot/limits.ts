/** Limits of imports, so that hostile input ends in a clear refusal. Sizes in bytes. */
export const LIMITS = {
  files: 10_000,
  fileBytes: 50 * 1024 * 1024,
  totalBytes: 400 * 1024 * 1024,
  pathLength: 400,
} as const

/** A path inside a snapshot in its plain form, or the reason why it is not taken. */
export function plainPath(path: string): { ok: true; path: string } | { ok: false; reason: string } {
  const parts = path
    .replace(/\\/g, '/')
    .split('/')
    .filter((part) => part !== '' && part !== '.')
  if (path.startsWith('/') || /^[a-z]:/i.test(path)) return { ok: false, reason: 'absolute paths are not allowed' }
  if (parts.includes('..')) return { ok: false, reason: 'the path leaves the snapshot ("..")' }

  if (/[\u0000-\u001f\u007f]/.test(path)) return { ok: false, reason: 'the path contains control characters' }
  if (path.length > LIMITS.pathLength)
    return { ok: false, reason: `the path is longer than ${LIMITS.pathLength} characters` }
  if (parts.length === 0) return { ok: false, reason: 'the path is empty' }
  return { ok: true, path: parts.join('/') }
}
