/** The device model: plain data with the lines it comes from. */
export {
  accessListsOf,
  type AccessEntry,
  type AccessList,
  type AccessLists,
  type EntryMatch,
  type Range,
} from './access-list.ts'
export * from './address.ts'
export { HeldConfig, type Interface } from './held-config.ts'
