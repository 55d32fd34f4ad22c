/**
 * How high each of many rows is, where few of them were ever drawn: those have their true height, the others are as
 * high as such rows mostly are. Sums of heights are kept in a binary indexed tree.
 */
export class RowHeights {
  /** By row: what was measured; NaN where nothing was. */
  readonly #measured: Float64Array
  /** Sums of the differences from the usual height. */
  readonly #sums: Float64Array

  /** @param usual height of a row that was not drawn yet, in pixels */
  constructor(
    readonly count: number,
    readonly usual: number,
  ) {
    this.#measured = new Float64Array(count).fill(NaN)
    this.#sums = new Float64Array(count + 1)
  }

  /** @returns whether it was not known before */
  measure(row: number, height: number): boolean {
    if (row < 0 || row >= this.count || height <= 0) return false
    const before = this.heightOf(row)
    const isNews = this.#measured[row] !== height
    this.#measured[row] = height
    for (let at = row + 1; at <= this.count; at += at & -at) this.#sums[at] = (this.#sums[at] ?? 0) + height - before
    return isNews
  }

  heightOf(row: number): number {
    const measured = this.#measured[row] ?? NaN
    return Number.isNaN(measured) ? this.usual : measured
  }

  /** Pixels above a row. */
  above(row: number): number {
    const end = Math.min(Math.max(row, 0), this.count)
    let sum = end * this.usual
    for (let at = end; at > 0; at -= at & -at) sum += this.#sums[at] ?? 0
    return sum
  }

  get total(): number {
    return this.above(this.count)
  }

  /** The row in which a pixel is, counted from the top. */
  rowAt(pixel: number): number {
    let [low, high] = [0, Math.max(0, this.count - 1)]
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (this.above(middle) <= pixel) low = middle
      else high = middle - 1
    }
    return low
  }
}
