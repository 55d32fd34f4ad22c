/** A rule and the values that it asks of its benchmark, as plain data in the order in which people read it. */
export interface DraftRule {
  readonly rule: Readonly<Record<string, unknown>>
  readonly values: Readonly<Record<string, unknown>>
}
