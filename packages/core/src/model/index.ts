/** The device model: plain data with the lines it comes from. */
export {
  accessListsOf,
  addressBits,
  allOnes,
  parsePrefix,
  prefixMatch,
  type AccessEntry,
  type AccessList,
  type AccessLists,
  type AddressMatch,
  type EntryMatch,
  type Family,
  type Range,
} from './access-list.ts'
export { DeviceModel, type Interface } from './device.ts'
