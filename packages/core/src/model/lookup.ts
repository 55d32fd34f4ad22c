/**
 * Entries of lists by values of theirs. A device may have a hundred thousand routes: no list is searched for each of
 * them.
 */
export class Lookup {
  readonly #lists = new Map<object, ListLookup>()

  /** Places of the entries that have these values, in their order. */
  placesOf(list: readonly object[], key: object): readonly number[] {
    if (list.length > FEW) return this.#of(list).placesOf(list, key)
    return list.flatMap((entry, place) => (hasValues(entry, key) ? [place] : []))
  }

  /** The first of them, -1 where there is none. */
  placeOf(list: readonly object[], key: object): number {
    return list.length > FEW
      ? (this.#of(list).placesOf(list, key)[0] ?? -1)
      : list.findIndex((entry) => hasValues(entry, key))
  }

  /** To be called when the values of an entry have changed since it was added. */
  changed(list: readonly object[], place: number): void {
    if (list.length > FEW) this.#of(list).changed(list, place)
  }

  /** Whether a list of texts holds one. */
  includes(list: readonly string[], text: string): boolean {
    return list.length > FEW ? this.#of(list).includes(list, text) : list.includes(text)
  }

  #of(list: readonly unknown[]): ListLookup {
    let found = this.#lists.get(list)
    if (!found) this.#lists.set(list, (found = new ListLookup()))
    return found
  }
}

/** Up to here a look through the list is quicker than a table of it. */
const FEW = 16
const NOWHERE: readonly number[] = []

interface Table {
  readonly names: readonly string[]
  readonly places: Map<string, number[]>
  /** How many entries of the list are in it. */
  filled: number
}

class ListLookup {
  /** By the names that were asked for. */
  readonly #tables = new Map<string, Table>()
  readonly #texts = new Set<string>()
  #filled = 0

  placesOf(list: readonly object[], key: object): readonly number[] {
    const names = Object.keys(key)
    const id = names.length === 1 ? (names[0] ?? '') : names.join()
    let table = this.#tables.get(id)
    if (!table) this.#tables.set(id, (table = { names, places: new Map(), filled: 0 }))
    for (; table.filled < list.length; table.filled++)
      note(table, textOf(list[table.filled] ?? {}, names), table.filled)
    const places = table.places.get(textOf(key, names))
    // Entries that have changed since stand where they were noted as well.
    return places?.every((place) => hasValues(list[place] ?? {}, key)) === false
      ? places.filter((place) => hasValues(list[place] ?? {}, key))
      : (places ?? NOWHERE)
  }

  changed(list: readonly object[], place: number): void {
    for (const table of this.#tables.values())
      if (place < table.filled) note(table, textOf(list[place] ?? {}, table.names), place)
  }

  includes(list: readonly string[], text: string): boolean {
    for (; this.#filled < list.length; this.#filled++) this.#texts.add(list[this.#filled] ?? '')
    return this.#texts.has(text)
  }
}

function note({ places }: Table, text: string, place: number): void {
  const known = places.get(text)
  if (!known) places.set(text, [place])
  else if ((known.at(-1) ?? -1) < place) known.push(place)
  else if (!known.includes(place)) known.splice(known.findLastIndex((other) => other < place) + 1, 0, place)
}

function hasValues(entry: object, key: object): boolean {
  for (const name in key)
    if ((entry as Record<string, unknown>)[name] !== (key as Record<string, unknown>)[name]) return false
  return true
}

function textOf(entry: object, names: readonly string[]): string {
  let text = ''
  for (const name of names) text += `${String((entry as Record<string, unknown>)[name])}\n`
  return text
}
