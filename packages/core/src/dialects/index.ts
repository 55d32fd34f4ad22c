/** The forms in which devices are configured: one folder each, and one line in `dialects`. */
import { braced } from './braced/index.ts'
import type { CommandSet } from './collection.ts'
import { data } from './data/index.ts'
import type { Dialect } from './dialect.ts'
import type { ForwardingRules } from './forwarding-rules.ts'
import { editblocks } from './editblocks/index.ts'
import { indented } from './indented/index.ts'
import { linux } from './linux/index.ts'
import { setlines } from './setlines/index.ts'
import { xmlentries } from './xmlentries/index.ts'
import { maskLine, type Mask } from '../syntax/index.ts'

export { PROBES, type CommandSet, type RecordCommand } from './collection.ts'
export type { Dialect, ExampleText } from './dialect.ts'
export type { SessionRules } from './session-rules.ts'
export type { ForwardingRules, Stage, StageOrder } from './forwarding-rules.ts'
export { typedWord, wordsOfPhrase } from './hierarchy/phrase.ts'
export { communityOfHost } from './indented/secrets.ts'
export { accessListsOf } from './indented/model/access-list.ts'
export { natOfLine } from './indented/model/nat.ts'
export { SYSTEM_FILES, readSystemFile, type SystemFile } from './linux/files.ts'
export { readFile as readSystemFileInto } from './linux/model/files.ts'
export { readFilterRules } from './linux/model/rules.ts'
export { readSettings } from './linux/model/settings.ts'
export { readKernelSettings, type KernelSettings } from './linux/settings.ts'

/** Every dialect that can be read. */
export const dialects: readonly Dialect[] = [indented, braced, setlines, data, linux, editblocks, xmlentries]

/** How devices of each dialect are asked, by its id. */
export const commandSets: ReadonlyMap<string, CommandSet> = new Map(
  dialects.map(({ id, collection }) => [id, collection]),
)

/** What is asked over NETCONF of devices that have it beside a command line. */
export const netconfCommands = dialects.find(({ collection }) => collection.talk === 'netconf')?.collection

/**
 * The lines of the output of a command as people may see them. It has no dialect: what any of them takes for a secret
 * is hidden.
 */
export function maskedOutput(text: string, mask: Mask): string[] {
  return text
    .split(/\r?\n/)
    .map((line) => dialects.reduce((masked, dialect) => maskLine(masked, null, dialect, mask), line))
}

/** Their ids, as a schema wants them. */
export const DIALECT_IDS = dialects.map(({ id }) => id)

/** The dialect of rules and devices that name none. */
export const DEFAULT_DIALECT = indented.id

/** How devices of a dialect forward; of one that is not known, as data that says nothing else. */
export function forwardingRulesOf(id: string): ForwardingRules {
  return (dialectById(id) ?? data).forwarding
}

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
