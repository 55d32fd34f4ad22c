/** What a network forwards, permits and protects. */
export { ClassHeaders } from './class-headers.ts'
export { DestinationClasses, type TableColumns } from './classes.ts'
export { CompiledDevice } from './compiled.ts'
export { exhibitsOf, forwardingOf, type Exhibit as ForwardingExhibit, type ForwardingDevice } from './device.ts'
export { Network, type NumberedTable } from './network.ts'
export { FATES, type Fate, type Reason } from './fates.ts'
export { portNamed, type NetworkDevice, type Port } from './ports.ts'
export { ExhibitTexts, type ShownExhibit } from './exhibit-texts.ts'
export { FINDING_WORDS, filterFindings, type FilterFinding, type FilterFindingKind } from './filter-report.ts'
export { BesideFileError, readLinksFile, withOutside, type LinksFile } from './links-file.ts'
export { layersOf, type Layer } from './protection.ts'
export { AskError, packetAsked, pointAt, traceQuestionSchema, type TraceQuestion } from './ask.ts'
export { answerTo, type ExpectationAnswer, type ExpectationOutcome } from './expect.ts'
export {
  expectationSchema,
  expectationsFileSchema,
  mustWords,
  readExpectations,
  type Expectation,
  type Must,
} from './expectations.ts'
export { networkOfParts, networkOfSnapshot, networkPart, type NetworkPart } from './of-snapshot.ts'
export { PLACE_FORMS, PlaceError, hostPlaces, outsidePorts, placeOf, type Place as NetworkPlace } from './places.ts'
export { classed, partsOf, plainly, reach, shown, type Reach, type ReachPart, type ShownSet } from './reach.ts'
export { whatIsReached, whoReaches, type Step, type SurveyRow } from './survey.ts'
export { answersBack, isStateful, type AnswerPart, type AnswerStart, type Answers } from './answers.ts'
export {
  NETWORK_FINDING_WORDS,
  networkFindings,
  type NetworkFinding,
  type NetworkFindingKind,
} from './network-findings.ts'
export { fateChanges, type FateChange, type FateChanges } from './fate-changes.ts'
export {
  functionsOf,
  type DeviceFunction,
  type FunctionFacts,
  type FunctionKind,
  type FunctionLink,
} from './functions.ts'
export { pictureOf, pictureOfPaths, type Picture, type PictureLink } from './picture.ts'
export { Prefixes } from './prefixes.ts'
export { tablesOf, type Hop, type Route, type RoutingTable } from './tables.ts'
export { Topology, type Attachment, type Segment } from './topology.ts'
export { traceOf, type Decision as TraceDecision, type Trace, type TraceHop, type TracePath } from './trace.ts'
export { Walker, type Crossing, type Ending, type Origin as WalkOrigin, type Remembered, type Walked } from './walk.ts'
export { namesIn } from './names.ts'
