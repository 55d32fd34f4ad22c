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
export { DeviceModel, type Interface } from './device.ts'
