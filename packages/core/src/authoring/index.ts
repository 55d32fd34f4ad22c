/**
 * Rules without code: lines of a record become a condition, a condition becomes a rule, a rule a text that people edit
 * further.
 */
export { citeLines, type Cited } from './cite.ts'
export {
  conditionFrom,
  MODES,
  patternOf,
  type Citation,
  type CitedLine,
  type CitedWord,
  type Mode,
} from './citation.ts'
export { pastedBlock, pastedPrefixes } from './pasted.ts'
export { ruleFrom, ruleOf } from './draft.ts'
export { ruleOfReference } from './reference-rule.ts'
export { type DraftRule } from './draft-rule.ts'
export { changedText, idFrom, withRule } from './text.ts'
export { differencesOf, type BenchmarkDifferences, type FieldDifference, type RuleDifference } from './differences.ts'
export { offersAt, placeAt, type YamlPlace } from './place.ts'
