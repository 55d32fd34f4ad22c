import { DeviceAnalysis } from '../analysis/index.ts'

/** The listings of a device that can stand for its configuration. */
export const LISTINGS = ['config', 'config.saved', 'config.full'] as const
export type Listing = (typeof LISTINGS)[number]

/**
 * A device as if one of its listings were all that it runs: its saved configuration, or the one with defaults.
 * @returns null where it has no such record
 */
export function withListing(device: DeviceAnalysis, listing: Listing): DeviceAnalysis | null {
  if (!device.records.some(({ kind, tree }) => kind === listing && tree !== null)) return null
  const records = device.records.flatMap((record) => {
    if (!record.kind.startsWith('config')) return [record]
    if (record.kind !== listing) return []
    return [record.tree ? { ...record, kind: listing === 'config.full' ? listing : 'config' } : record]
  })
  return new DeviceAnalysis(device.dialect, records, device.mask)
}
