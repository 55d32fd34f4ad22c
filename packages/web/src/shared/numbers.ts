const THOUSANDS = new Intl.NumberFormat('en')

/** A number as people read it: by thousands. */
export function grouped(count: number): string {
  return THOUSANDS.format(count)
}
