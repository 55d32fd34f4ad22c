/** Header sets, and access lists as header sets. */
export { admits, fromSources, openToAll, type Admission } from './access-list.ts'
export { EVERYTHING, boxesOf, intersect, remainder, subtract, type Box } from './header-set.ts'
