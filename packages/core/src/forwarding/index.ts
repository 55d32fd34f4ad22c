/** What a network forwards, permits and protects. */
export { ClassHeaders } from './routing/class-headers.ts'
export { DestinationClasses, type TableColumns } from './routing/classes.ts'
export { CompiledDevice } from './pipeline/compiled.ts'
export { forwardingOf, type ForwardingDevice } from './network/device.ts'
export { exhibitsOf, type Exhibit as ForwardingExhibit } from './network/exhibit.ts'
export { Network } from './network/network.ts'
export type { NumberedTable } from './routing/numbered-table.ts'
export { FATES, type Fate, type Reason } from './pipeline/fates.ts'
export { interfaceNamed, type NetworkDevice, type DeviceInterface } from './network/interfaces.ts'
export { ExhibitTexts, type ShownExhibit } from './queries/exhibit-texts.ts'
export { FINDING_WORDS, filterFindings, type FilterFinding, type FilterFindingKind } from './findings/filter-report.ts'
export { readLinksFile, withOutside, type LinksFile } from './network/links-file.ts'
export { layersOf, type Layer } from './engine/protection.ts'
export { AskError, packetAsked, pointAt, traceQuestionSchema, type TraceQuestion } from './queries/ask.ts'
export { answerTo } from './queries/expect.ts'
export type { ExpectationAnswer, ExpectationOutcome } from './queries/expectation/question.ts'
export {
  expectationSchema,
  expectationsFileSchema,
  mustWords,
  readExpectations,
  type Expectation,
  type Must,
} from './queries/expectations.ts'
export { networkOfParts, networkOfSnapshot, networkPart, type NetworkPart } from './network/of-snapshot.ts'
export { PLACE_FORMS, PlaceError, hostPlaces, outsideInterfaces, placeOf } from './queries/places.ts'
export { type Place as NetworkPlace } from './queries/place.ts'
export { classed, partsOf, simplify, reach, shown, type Reach, type ReachPart, type ShownSet } from './queries/reach.ts'
export { whatIsReached, whoReaches, type Step, type SurveyRow } from './queries/survey.ts'
export { answersBack, isStateful, type AnswerPart, type AnswerStart, type Answers } from './queries/answers.ts'
export { NETWORK_FINDING_WORDS, networkFindings } from './findings/network-findings.ts'
export { type NetworkFinding, type NetworkFindingKind } from './findings/finding.ts'
export { exposureOf, type Exposed } from './queries/exposure.ts'
export { fateChanges, type FateChange, type FateChanges } from './queries/fate-changes.ts'
export {
  functionsOf,
  type DeviceFunction,
  type FunctionFacts,
  type FunctionKind,
  type FunctionLink,
} from './queries/functions.ts'
export { pictureOf, pictureOfPaths, type Picture, type PictureLink } from './queries/picture.ts'
export { Prefixes } from './routing/prefixes.ts'
export { tablesOf } from './routing/tables.ts'
export type { Hop, Route, RoutingTable } from './routing/route.ts'
export { Topology, type Attachment, type Segment } from './network/topology.ts'
export { traceOf, type Decision as TraceDecision, type Trace, type TraceHop, type TracePath } from './engine/trace.ts'
export { Walker } from './engine/walk.ts'
export {
  type Crossing,
  type Ending,
  type Origin as WalkOrigin,
  type SessionState,
  type Walked,
} from './engine/walked.ts'
export { namesIn } from './network/names.ts'
