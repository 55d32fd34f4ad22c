/** What people said of a finding, as it goes out with a plan of action and comes back. */
export interface FindingMark {
  readonly owner: string | null
  /** `YYYY-MM-DD`. */
  readonly due: string | null
  readonly comment: string
  readonly done: boolean
}
/** By benchmark, rule and device, parted by spaces. */
export type FindingMarks = ReadonlyMap<string, FindingMark>

export const findingKey = ({ benchmark, rule, device }: { benchmark: string; rule: string; device: string }): string =>
  `${benchmark} ${rule} ${device}`
