/** Reading configurations: text to located tree, and the tree of what holds. */

export { CoreError, type CoreErrorCode } from './core-error.ts'
export type { NumberedPlace, Syntax } from './syntax.ts'
export { Command, findingsPlace } from './command.ts'
export { effectiveTree } from './effective-tree.ts'
export { Scope, Statement, type InactivePart } from './scope.ts'
export { items, leaf, member, parseJson, type LocatedValue } from './json.ts'
export { parseXml } from './xml.ts'
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
  blocksAround,
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
export { SizedCache } from './sized-cache.ts'
export { isOfListing, stableLines, stableText } from './stable-text.ts'
export { FORMULA, csvOf } from './spreadsheet.ts'
export { READING_LIMITS, beyondLimits } from './bounds.ts'
export {
  type LocatedYaml,
  YAML_LIMITS,
  firstLineOf,
  lineOfError,
  readLocatedYaml,
  readYaml,
  readYamlDocument,
  schemaFault,
} from './yaml.ts'
export { CompanionFileError, readBeside } from './companion-file.ts'
export { noiseRuleSchema, type NoiseRule, type StatementNoise } from './noise.ts'
export { tailOf, withoutTail } from './tail.ts'
export { decodeText, encodeText, type Encoding, type TextSource } from './text-source.ts'
export { grouped } from './grouped.ts'
export { xmlCharacters } from './xml-characters.ts'
