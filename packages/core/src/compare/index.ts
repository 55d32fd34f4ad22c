/** Comparing two of a kind. */
export { diffScopes, statementText, type Difference } from './tree-diff.ts'
