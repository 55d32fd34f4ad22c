import { sha256Hex } from '../syntax/index.ts'

/** Names that no file has on some systems, whatever follows their dot. */
const RESERVED = /^(?:con|prn|aux|nul|com\d|lpt\d)(?:\.|$)/i
const SAFE = /^[A-Za-z\d][\w.-]{0,79}$/

/**
 * A name that is safe as a file or folder, wherever it is unpacked: letters, digits, dots, dashes and underscores,
 * never a path. Different names stay different.
 */
export function safeFileName(name: string): string {
  if (SAFE.test(name) && !RESERVED.test(name) && !name.endsWith('.')) return name
  const readable = name
    .split(/[^A-Za-z\d]+/)
    .filter((part) => part !== '')
    .join('-')
    .slice(0, 40)
  return `${readable === '' ? 'name' : readable}-${sha256Hex(new TextEncoder().encode(name)).slice(0, 10)}`
}

/** Where the files of a device lie, and what its `device.yaml` says of its name where the folder cannot. */
export function deviceFolder(name: string): { readonly folder: string; readonly named: { readonly name?: string } } {
  const safe = safeFileName(name)
  return { folder: `devices/${safe}`, named: safe === name ? {} : { name } }
}
