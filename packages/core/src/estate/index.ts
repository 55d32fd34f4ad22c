/** The estate: what devices are to each other, and what people say of them. */
export {
  approvalOf,
  approvalSchema,
  exceptionSchema,
  imagesFor,
  type Approval,
  type ApprovalAnswer,
  type ApprovalException,
  type Approvedness,
  type RunningDevice,
} from './approved.ts'
export {
  digestOf,
  summaryOf,
  type DeviceDigest,
  type DigestInterface,
  type ReadDevice,
  type SourceLocation,
} from './digest.ts'
export { filterNames, membersOf, readsModel, type FilteredDevice, type GroupMembers } from './groups.ts'
export {
  recognise,
  vanishedOf,
  type FoundDevice,
  type KnownDevice,
  type Sighting,
  type SightingKind,
} from './identity.ts'
export {
  LABEL_TYPES,
  labelSchema,
  readDevices,
  readLabel,
  setFromFacts,
  sitesAround,
  writeDevices,
  type DeviceImport,
  type LabelChange,
  type LabelDefinition,
  type LabelType,
  type LabelValue,
} from './labels.ts'
export {
  linksOf,
  namesOfDevices,
  type Digested,
  type Link,
  type LinkEnd as EstateLinkEnd,
  type LinkStanding,
} from './links.ts'
export {
  APPROVED_WORDS,
  TABLES,
  identityOf,
  tableOf,
  type EstateDevices,
  type EstateRow,
  type EstateTable,
  type Member,
  type TableName,
} from './tables.ts'
export { isObjectId, modelNameSchema, nameOfModel, type ModelName } from './model-names.ts'
export { segmentsOf, type Segments } from './segments.ts'
export { sampleOf, type Sample, type SampleMember, type Stratum } from './sample.ts'
