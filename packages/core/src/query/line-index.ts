import { RE2JS } from 're2js'
import { QuestionError, requiredText, type LineQuestion } from './question.ts'

/** A line that was found: of which text, which line of it (from 1). */
export interface LineHit {
  readonly key: string
  readonly line: number
  readonly text: string
}

export interface LineAnswer {
  readonly hits: readonly LineHit[]
  /** All lines that answer, shown or not. */
  readonly total: number
  /** How many each text holds, of those that hold one. */
  readonly counts: ReadonlyMap<string, number>
}

/** Lines of a few pages together, each once. `lower` is `text` in small letters, of the same length. */
interface Page {
  readonly first: number
  readonly starts: Uint32Array
  readonly text: string
  readonly lower: string
}

interface Held {
  /** By line: its number among the lines that are held once. */
  readonly ids: Uint32Array
  /** By line: the line that opens the block around it, from 1; 0 where there is none. */
  readonly blocks: Uint32Array
}

/** Lines that one page holds. */
const PAGE = 16_384
/** Lines between two looks at the clock, less one. */
const LOOK = 1023
/** Marks of masked secrets, as characters that a text of one byte a character can hold. */
const [OPEN, CLOSE] = ['\u0002', '\u0003']

/**
 * The lines of many texts, ready to be searched. A line that stands in a thousand texts is held, and looked at, once:
 * its text in pages of plain text, each text as the numbers of its lines. Nothing is read again for a question.
 */
export class LineIndex {
  readonly #held = new Map<string, Held>()
  readonly #pages: Page[] = []
  #open: string[] = []
  /** Of lines by their hash, in open addressing: number of the line plus one; 0 is free. */
  #slots = new Uint32Array(1 << 15)
  #count = 0

  get texts(): number {
    return this.#held.size
  }

  /** Lines that differ. */
  get lines(): number {
    return this.#count
  }

  has(key: string): boolean {
    return this.#held.has(key)
  }

  /** @param blocks by line: the line that opens the block around it, from 1; 0 where there is none */
  add(key: string, lines: readonly string[], blocks: ArrayLike<number> = []): void {
    if (this.#held.has(key)) return
    const ids = new Uint32Array(lines.length)
    for (let i = 0; i < lines.length; i++) ids[i] = this.#idOf(packed(lines[i] ?? ''))
    const around = new Uint32Array(lines.length)
    for (let i = 0; i < Math.min(lines.length, blocks.length); i++) around[i] = blocks[i] ?? 0
    this.#held.set(key, { ids, blocks: around })
  }

  /**
   * Lines that answer a question, in the order of the keys.
   * @param limit most that are shown; all are counted
   * @param late whether it has taken too long; asked now and then
   * @throws QuestionError where it has
   */
  find(question: LineQuestion, keys: Iterable<string>, limit: number, late: () => boolean = () => false): LineAnswer {
    this.#closePage()
    const wanted = this.#answering(question.words, question.pattern, late)
    const around = question.inside.length === 0 ? null : this.#answering(question.inside, null, late)
    const hits: LineHit[] = []
    const counts = new Map<string, number>()
    let total = 0
    for (const key of keys) {
      const held = this.#held.get(key)
      if (!held) continue
      const { ids, blocks } = held
      let here = 0
      for (let i = 0; i < ids.length; i++) {
        const id = ids[i] as number
        if (((wanted[id >> 3] as number) & (1 << (id & 7))) === 0) continue
        if (around && !insideOf(around, held, blocks[i] ?? 0)) continue
        here++
        if (hits.length < limit) hits.push({ key, line: i + 1, text: unpacked(this.#textOf(id)).trim() })
      }
      total += here
      if (here > 0) counts.set(key, here)
    }
    return { hits, total, counts }
  }

  /** The lines that answer, as bits by their number. */
  #answering(words: readonly string[], pattern: string | null, late: () => boolean): Uint8Array {
    const bits = new Uint8Array((this.#count >> 3) + 1)
    const compiled = pattern === null ? null : RE2JS.compile(pattern)
    const [first = '', ...others] = compiled
      ? [packed(requiredText(pattern ?? ''))]
      : words.map(packed).toSorted((a, b) => b.length - a.length)
    if (!compiled && first === '') return bits
    let looked = 0
    for (const page of this.#pages) {
      const { starts, lower, text } = page
      const count = starts.length - 1
      const consider = (line: number): void => {
        if (compiled && (++looked & LOOK) === 0 && late())
          throw new QuestionError(
            `/${pattern}/ takes too long over this estate: add literal text to the pattern, or search inside a block`,
          )
        const [from, to] = [starts[line] as number, (starts[line + 1] as number) - 1]
        if (
          compiled
            ? !compiled.test(unpacked(text.slice(from, to)))
            : others.length > 0 && !holdsAll(lower.slice(from, to), others)
        )
          return
        const id = page.first + line
        bits[id >> 3] = (bits[id >> 3] as number) | (1 << (id & 7))
      }
      if (first === '') {
        for (let line = 0; line < count; line++) consider(line)
        continue
      }
      for (let at = lower.indexOf(first), line = 0; at >= 0;) {
        line = lineAt(starts, at, line)
        consider(line)
        at = lower.indexOf(first, starts[line + 1])
      }
    }
    return bits
  }

  #idOf(line: string): number {
    if (this.#count * 2 >= this.#slots.length) this.#grow()
    const mask = this.#slots.length - 1
    for (let slot = hashOf(line) & mask; ; slot = (slot + 1) & mask) {
      const held = this.#slots[slot] as number
      if (held === 0) {
        const id = this.#count++
        this.#slots[slot] = id + 1
        this.#open.push(line)
        if (this.#open.length === PAGE) this.#closePage()
        return id
      }
      if (this.#is(held - 1, line)) return held - 1
    }
  }

  #grow(): void {
    this.#slots = new Uint32Array(this.#slots.length * 2)
    const mask = this.#slots.length - 1
    for (let id = 0; id < this.#count; id++) {
      let slot = hashOf(this.#textOf(id)) & mask
      while (this.#slots[slot] !== 0) slot = (slot + 1) & mask
      this.#slots[slot] = id + 1
    }
  }

  #is(id: number, line: string): boolean {
    const page = this.#pageOf(id)
    if (!page) return this.#open[id - (this.#count - this.#open.length)] === line
    const [from, to] = [page.starts[id - page.first] as number, page.starts[id - page.first + 1] as number]
    return to - from - 1 === line.length && page.text.startsWith(line, from)
  }

  #textOf(id: number): string {
    const page = this.#pageOf(id)
    if (!page) return this.#open[id - (this.#count - this.#open.length)] ?? ''
    return page.text.slice(page.starts[id - page.first], (page.starts[id - page.first + 1] as number) - 1)
  }

  #pageOf(id: number): Page | undefined {
    let [low, high] = [0, this.#pages.length - 1]
    while (low <= high) {
      const middle = (low + high) >> 1
      const page = this.#pages[middle] as Page
      if (id < page.first) high = middle - 1
      else if (id >= page.first + page.starts.length - 1) low = middle + 1
      else return page
    }
    return undefined
  }

  #closePage(): void {
    if (this.#open.length === 0) return
    const first = this.#count - this.#open.length
    const starts = new Uint32Array(this.#open.length + 1)
    let at = 0
    this.#open.forEach((line, i) => {
      starts[i] = at
      at += line.length + 1
    })
    starts[this.#open.length] = at
    const text = `${this.#open.join('\n')}\n`
    this.#pages.push({ first, starts, text, lower: small(text) })
    this.#open = []
  }
}

function insideOf(around: Uint8Array, { ids, blocks }: Held, block: number): boolean {
  for (let line = block; line > 0; line = blocks[line - 1] ?? 0) {
    const id = ids[line - 1] as number
    if (((around[id >> 3] as number) & (1 << (id & 7))) !== 0) return true
  }
  return false
}

function holdsAll(line: string, words: readonly string[]): boolean {
  for (const word of words) if (!line.includes(word)) return false
  return true
}

/** The line in which an offset is, at or after another: near ones are found in few steps. */
function lineAt(starts: Uint32Array, offset: number, from: number): number {
  let [low, step] = [from, 1]
  while (low + step < starts.length - 1 && (starts[low + step] as number) <= offset) {
    low += step
    step *= 2
  }
  let high = Math.min(low + step, starts.length - 1) - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if ((starts[middle] as number) <= offset) low = middle
    else high = middle - 1
  }
  return low
}

/** FNV-1a over the characters. */
function hashOf(text: string): number {
  let hash = 0x811c9dc5
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193)
  return hash >>> 0
}

/** In small letters, of the same length. */
function small(text: string): string {
  const lower = text.toLowerCase()
  return lower.length === text.length
    ? lower
    : [...text].map((char) => (char.toLowerCase().length === char.length ? char.toLowerCase() : char)).join('')
}

/** A line as it is held: without line breaks, marks of secrets as single characters. */
function packed(line: string): string {
  return line.includes('‹') || line.includes('›') || line.includes('\n')
    ? line.replaceAll('‹', OPEN).replaceAll('›', CLOSE).replaceAll('\n', ' ')
    : line
}

function unpacked(line: string): string {
  return line.includes(OPEN) || line.includes(CLOSE) ? line.replaceAll(OPEN, '‹').replaceAll(CLOSE, '›') : line
}
