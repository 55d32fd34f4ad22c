/** Header sets, and access lists as header sets. */
export { admits, openToAll, standaloneLists, type Admission } from './access-list.ts'
export { ALL, Diagrams, END, NOTHING, ComplexityLimitError } from './diagram.ts'
export { exampleOf } from './example.ts'
export { FIELDS, TCP_FLAGS, type Field, type FieldName, type TcpFlag } from './fields.ts'
export { FilterTextError, readFilterText } from './filter-text.ts'
export { Headers, type HeaderMatch } from './headers.ts'
export type { Packet } from './packet.ts'
export { differenceOf, findingsOf, type ListFinding, type ListFindingKind } from './list-findings.ts'
export {
  ListSets,
  type MatchContext,
  type LaterFragments,
  type Decision,
  type ListEntry,
  type ModelList,
  type Verdict as ListVerdict,
} from './lists.ts'
export { MANY_CLASSES, readableOf, type Readable } from './readable.ts'
export { sizeOf } from './size.ts'
