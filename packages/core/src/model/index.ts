/** The device model: plain data with the lines it comes from. */
export * from './address-text.ts'
export {
  modelOf,
  unreadLines,
  unreadLinesOf,
  type ModelOptions,
  type BesideLine,
  type HarmlessLine,
  type ModelledDevice,
  type UnreadLine,
  type UnreadStatement,
} from './build.ts'
export { blocksAbout, formsAbout, mayBe, unreadAt, unreadPlaces } from './unread.ts'
export { originOf, valueAt, type Origin, type OriginLines, type Origins } from './origins.ts'
export { deviceModelSchema, type DeviceModel, type Secret } from './schema/index.ts'
export type { EntryMatch, Range } from './entry-match.ts'
export * from './address.ts'
export { kindOfInterface } from './interface-kind.ts'
export { ALL_VLANS, vlanRanges, vlansOf } from './vlans.ts'
export type { ModelDialect, ModelRules } from './dialect.ts'
export { EffectiveConfig } from './effective-config.ts'
export * from './pattern.ts'
export { blank } from './blank.ts'
export { ROOT, ProvenanceRecorder, Writer, type SourceRange } from './writer.ts'
export { decodeCertificate, distinguishedName, type DecodedCertificate } from './certificate.ts'
export { portNames } from './names.ts'
