/** Reading configurations: text to located tree, and the tree of what holds. */
import { braced } from './braced/index.ts'
import { data } from './data/index.ts'
import type { Dialect } from './dialect.ts'
import { indented } from './indented/index.ts'
import { linux } from './linux/index.ts'
import { setlines } from './setlines/index.ts'

export type { Dialect } from './dialect.ts'
export { Command, findingsPlace } from './command.ts'
export { Scope, Statement, effectiveTree, type InactivePart } from './effective-tree.ts'
export { items, leaf, member, parseJson, type LocatedValue } from './data/json.ts'
export { parseXml } from './data/xml.ts'
export { communityOfHost } from './indented/secrets.ts'
export {
  PhysicalLines,
  lastLineOf,
  walk,
  writeTree,
  type ConfigNode,
  type Fault,
  type LocatedTree,
} from './located-tree.ts'
export { mayHoldSecret, secretsAnywhere } from './secret-words.ts'
export {
  MaskedLines,
  fingerprintWithKey,
  maskLine,
  maskText,
  maskWithKey,
  withoutFingerprints,
  sha256Hex,
  type Fingerprint,
  type Mask,
} from './masking.ts'
export { Recent } from './recent.ts'
export { SYSTEM_FILES, readSystemFile, type SystemFile } from './linux/files.ts'
export { readKernelSettings, type KernelSettings } from './linux/settings.ts'
export { isOfListing, settledLines, settledText } from './settled.ts'
export { FORMULA, csvOf } from './spreadsheet.ts'
export { typedWord, wordsOfPhrase } from './paths/phrase.ts'
export { READING_LIMITS, beyondLimits } from './bounds.ts'
export { YAML_LIMITS, firstLineOf, readYaml, readYamlDocument, schemaFault } from './yaml.ts'
export { tailOf, withoutTail } from './tail.ts'
export { decodeText, encodeText, type Encoding, type TextSource } from './text-source.ts'

/** Every dialect that can be read. */
export const dialects: readonly Dialect[] = [indented, braced, setlines, data, linux]

export function dialectById(id: string): Dialect | undefined {
  return dialects.find((dialect) => dialect.id === id)
}

/** `share`: how much of the text reads as that dialect, from 0 to 1. */
export type Detection = { ok: true; dialect: Dialect; share: number } | { ok: false; reason: string }

/** Finds the dialect of a text, or says why it is no configuration that can be read. */
export function detectDialect(text: string): Detection {
  const start = text.slice(0, 4000).trimStart()
  if (text.trim() === '') return { ok: false, reason: 'the file holds nothing but white space' }
  if (/^(?:<!doctype html|<html|<head)/i.test(start))
    return { ok: false, reason: 'this is an HTML page, not a device configuration' }
  let best: { dialect: Dialect; share: number } | null = null
  for (const dialect of dialects) {
    const share = dialect.recognise(text)
    if (!best || share > best.share) best = { dialect, share }
  }
  if (best && best.share >= 0.25) return { ok: true, ...best }
  if (/^<(?:\?xml|[\w:-]+[\s>])/i.test(start))
    return {
      ok: false,
      reason: 'this is XML, but of none of the models that are read here (RFC 7317, 8343, 8344, 8349, 8519)',
    }
  if (/^[[{]\s*["{[\]}]/.test(start))
    return {
      ok: false,
      reason: 'this is JSON, but of none of the models that are read here (RFC 7317, 8343, 8344, 8349, 8519)',
    }
  const percent = Math.round((best?.share ?? 0) * 100)
  return {
    ok: false,
    reason: `not recognised as a device configuration: ${percent} % of its commands are known to the dialect "${best?.dialect.id ?? ''}" (expected at least 25 %)`,
  }
}
