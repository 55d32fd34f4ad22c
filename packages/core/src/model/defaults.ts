/**
 * What a dialect takes for granted where its listing is silent. Each entry says where that is known from. A value whose
 * default differs between software versions, or is not known, is not here: it stays absent.
 */
export interface Default {
  /** Path of a field; `*` stands for every entry of a list. */
  readonly path: string
  readonly value: string | number | boolean
  readonly source: string
}
