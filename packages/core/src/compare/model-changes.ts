import { originOf, type ModelledDevice, type Origins } from '../model/index.ts'
import { grouped } from '../syntax/grouped.ts'
import { heaviestCommonSequence } from './common-sequence.ts'
import { LISTS, type ListRule } from './model-lists.ts'

/** Lines of one record, counted from 1, both included. */
export interface CitedLines {
  readonly record: string
  readonly from: number
  readonly to: number
}

/** What a change of the configuration means, in the words of the device model. */
export interface ModelChange {
  readonly change: 'added' | 'removed' | 'changed' | 'moved'
  /** What it belongs to, outermost first: `interface Vlan30`; none: the device as a whole. */
  readonly subject: readonly string[]
  /** The field within it: `mtu`; empty where the subject itself is added or removed. */
  readonly field: string
  /** Values as text; null where nothing is stated. Of lists: what is only on that side. */
  readonly before: string | null
  readonly after: string | null
  readonly a: readonly CitedLines[]
  readonly b: readonly CitedLines[]
}

type Value = unknown
type Entry = Readonly<Record<string, Value>>

/** A place in both models at once. */
interface Place {
  /** Path without numbers, by which `LISTS` knows it. */
  readonly form: string
  readonly a: string
  readonly b: string
  readonly subject: readonly string[]
  readonly field: string
}

/** What two models say differently. Entries of lists go by their keys, sets by what is in them. */
export function modelChanges(a: ModelledDevice, b: ModelledDevice): ModelChange[] {
  const changes = new ModelComparing(a.origins, b.origins)
  changes.compare(a.model, b.model, { form: '', a: '', b: '', subject: [], field: '' })
  return changes.out
}

class ModelComparing {
  readonly out: ModelChange[] = []

  constructor(
    readonly originsA: Origins,
    readonly originsB: Origins,
  ) {}

  compare(a: Value, b: Value, place: Place): void {
    if (a === b) return
    if (Array.isArray(a) && Array.isArray(b)) this.#lists(a, b, place)
    else if (isEntry(a) && isEntry(b) && !('fingerprint' in a)) this.#entries(a, b, place)
    else if (JSON.stringify(a) !== JSON.stringify(b)) this.#tell('changed', a, b, place)
  }

  #entries(a: Entry, b: Entry, place: Place): void {
    for (const name of Object.keys(a)) {
      if (IGNORED.has(name) || isSame(a[name], b[name])) continue
      this.compare(a[name], b[name], {
        ...place,
        form: joined(place.form, name),
        a: joined(place.a, name),
        b: joined(place.b, name),
        field: fieldWithin(place, name),
      })
    }
  }

  #lists(a: readonly Value[], b: readonly Value[], place: Place): void {
    const rule = LISTS[place.form]
    if (rule?.asSets) return
    if (rule && rule.key.length > 0) this.#keyed(a, b, place, rule)
    else this.#members(a, b, place, rule)
  }

  /** Entries that have a name of their own. */
  #keyed(a: readonly Value[], b: readonly Value[], place: Place, rule: ListRule): void {
    const keyOf = ({ entry }: Numbered): string => keyOfEntry(entry, rule)
    const [left, right] = [grouped(numberedOf(a), keyOf), grouped(numberedOf(b), keyOf)]
    const at = (key: string, i: number, j: number): Place => ({
      form: place.form,
      a: `${place.a}[${i}]`,
      b: `${place.b}[${j}]`,
      subject: [...place.subject, ...outerWords(place.field, rule), `${rule.title} ${key}`.trim()],
      field: '',
    })
    for (const key of new Set([...left.keys(), ...right.keys()])) {
      const [mine, theirs] = [left.get(key) ?? [], right.get(key) ?? []]
      for (let n = 0; n < Math.max(mine.length, theirs.length); n++) {
        const [one, other] = [mine[n], theirs[n]]
        if (one && other) {
          if (!isSame(one.entry, other.entry)) this.compare(one.entry, other.entry, at(key, one.at, other.at))
        } else if (one) this.#alone('removed', one, rule, at(key, one.at, -1))
        else if (other) this.#alone('added', other, rule, at(key, -1, other.at))
      }
    }
    if (rule.inTurn === true) this.#order(numberedOf(a), numberedOf(b), keyOf, place, rule)
  }

  /** An entry that only one side has. */
  #alone(change: 'added' | 'removed', { entry }: Numbered, rule: ListRule, place: Place): void {
    const words = said(
      entry,
      rule,
      change === 'removed' ? isStated(this.originsA, place.a) : isStated(this.originsB, place.b),
    )
    this.#tell(change, change === 'removed' ? words : null, change === 'added' ? words : null, place)
  }

  /** Of what both sides have: the fewest entries that stand at another place. */
  #order(
    a: readonly Numbered[],
    b: readonly Numbered[],
    keyOf: (one: Numbered) => string,
    place: Place,
    rule: ListRule,
  ): void {
    const [mine, theirs] = [a.map(keyOf), b.map(keyOf)]
    const [left, right] = [mine.filter((key) => theirs.includes(key)), theirs.filter((key) => mine.includes(key))]
    const kept = new Set(heaviestCommonSequence(left, right).map(([i]) => left[i]))
    for (const key of left.filter((one) => !kept.has(one))) {
      const [i, j] = [mine.indexOf(key), theirs.indexOf(key)]
      this.#tell('moved', ordinal(i), ordinal(j), {
        ...place,
        a: `${place.a}[${i}]`,
        b: `${place.b}[${j}]`,
        subject: [...place.subject, ...outerWords(place.field, rule), `${rule.title} ${key}`.trim()],
        field: 'place',
      })
    }
  }

  /** Values without a name: what is only on one side, and where order counts what stands elsewhere. */
  #members(a: readonly Value[], b: readonly Value[], place: Place, rule: ListRule | undefined): void {
    const textsOf = (list: readonly Value[], origins: Origins, path: string): Member[] =>
      list.map((value, at) => ({
        at,
        text: isEntry(value) ? said(value, rule, isStated(origins, `${path}[${at}]`)) : text(value),
      }))
    const [mine, theirs] = [textsOf(a, this.originsA, place.a), textsOf(b, this.originsB, place.b)]
    const left = rule?.inTurn === true ? outOfStep(mine, theirs) : { gone: mine, come: theirs }
    const { gone, come, both } = unequal(left.gone, left.come)
    const at = (list: readonly Member[], path: string): string =>
      list[0] === undefined ? path : `${path}[${list[0].at}]`
    const textOf = (list: readonly Member[]): string | null =>
      list.length === 0 ? null : list.map((one) => one.text).join(', ')
    if (gone.length + come.length > 0)
      this.#tell(come.length === 0 ? 'removed' : gone.length === 0 ? 'added' : 'changed', textOf(gone), textOf(come), {
        ...place,
        a: at(gone, place.a),
        b: at(come, place.b),
      })
    if (rule?.inTurn !== true) return
    for (const [one, other] of both)
      this.#tell('moved', `${one.text}: ${ordinal(one.at)}`, `${other.text}: ${ordinal(other.at)}`, {
        ...place,
        a: at([one], place.a),
        b: at([other], place.b),
      })
  }

  #tell(change: ModelChange['change'], before: Value, after: Value, place: Place): void {
    this.out.push({
      change,
      subject: place.subject,
      field: place.field,
      before: before === null ? null : text(before),
      after: after === null ? null : text(after),
      a: before === null ? [] : linesAt(this.originsA, place.a),
      b: after === null ? [] : linesAt(this.originsB, place.b),
    })
  }
}

interface Numbered {
  readonly entry: Entry
  readonly at: number
}

/** Of the model as a whole: not what the device does, but how it was listed. */
const IGNORED: ReadonlySet<string> = new Set(['dialect', 'listing'])

function isEntry(value: Value): value is Entry {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}

/** Whether two values are the same in every part: most of two models is, and needs no place of its own. */
function isSame(a: Value, b: Value): boolean {
  if (a === b) return true
  if (Array.isArray(a)) return Array.isArray(b) && a.length === b.length && a.every((one, i) => isSame(one, b[i]))
  if (!isEntry(a) || !isEntry(b)) return false
  for (const name in a) if (!isSame(a[name], b[name])) return false
  for (const name in b) if (!(name in a)) return false
  return true
}

function numberedOf(list: readonly Value[]): Numbered[] {
  return list.flatMap((entry, at) => (isEntry(entry) ? [{ entry, at }] : []))
}

/** What an entry is called. */
export function keyOfEntry(entry: Entry, { key }: ListRule): string {
  return key.flatMap((name) => (entry[name] === null || entry[name] === undefined ? [] : [text(entry[name])])).join(' ')
}

/** The field that a list stands in, where its entries do not say it by themselves: `redistributes`. */
function outerWords(field: string, rule: ListRule): string[] {
  return field === '' || rule.key.length > 0 ? [] : [field]
}

/** Whether a field of an entry is stated by a line, not by a default. */
function isStated(origins: Origins, path: string): (field: string) => boolean {
  return (field) => origins.get(`${path}.${field}`)?.kind !== 'default'
}

/** An entry in one line: what it states, less its key and what only says its place. */
function said(entry: Entry, rule: ListRule | undefined, stated: (field: string) => boolean = () => true): string {
  const own = Object.entries(entry).flatMap(([name, value]) => {
    if (rule?.key.includes(name) === true || rule?.places?.includes(name) === true) return []
    if (isBlank(value) || !stated(name)) return []
    return [`${wordsOf(name)} ${text(value)}`]
  })
  return own.join(', ')
}

function isBlank(value: Value): boolean {
  if (value === null || value === false || value === '') return true
  if (Array.isArray(value)) return value.length === 0
  return isEntry(value) && Object.values(value).every(isBlank)
}

function text(value: Value): string {
  if (typeof value === 'string') return value
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (Array.isArray(value))
    return value.length === 2 && value.every((one) => typeof one === 'number')
      ? rangeText(value[0] as number, value[1] as number)
      : value.map(text).join(', ')
  if (isEntry(value)) return 'fingerprint' in value ? secretText(value) : said(value, undefined)
  return String(value)
}

function secretText({ kind, fingerprint }: Entry): string {
  return `${String(fingerprint)} (${String(kind)})`
}

function rangeText(from: number, to: number): string {
  return from === to ? String(from) : `${from}–${to}`
}

function ordinal(at: number): string {
  return `no. ${at + 1}`
}

/** A value of a list and its place there. */
interface Member {
  readonly at: number
  readonly text: string
}

/** The fewest values that are not in one order on both sides. */
function outOfStep(mine: readonly Member[], theirs: readonly Member[]): { gone: Member[]; come: Member[] } {
  const pairs = heaviestCommonSequence(
    mine.map((one) => one.text),
    theirs.map((one) => one.text),
  )
  const [left, right] = [new Set(pairs.map(([i]) => i)), new Set(pairs.map(([, j]) => j))]
  return { gone: mine.filter((_, i) => !left.has(i)), come: theirs.filter((_, j) => !right.has(j)) }
}

/** Values of one side only, and pairs of equal ones. */
function unequal(
  mine: readonly Member[],
  theirs: readonly Member[],
): { gone: Member[]; come: Member[]; both: [Member, Member][] } {
  const waiting = grouped(theirs, (one) => one.text)
  const gone: Member[] = []
  const both: [Member, Member][] = []
  for (const one of mine) {
    const other = waiting.get(one.text)?.shift()
    if (other) both.push([one, other])
    else gone.push(one)
  }
  return { gone, come: [...waiting.values()].flat().sort((x, y) => x.at - y.at), both }
}

/** The words of a field; that it is of the system goes without saying. */
function fieldWithin({ form, field }: Place, name: string): string {
  if (form === '' && name === 'system') return ''
  return field === '' ? wordsOf(name) : `${field} ${wordsOf(name)}`
}

function joined(path: string, name: string): string {
  return path === '' ? name : `${path}.${name}`
}

/** `allowedVlans` as people write it. */
function wordsOf(name: string): string {
  return name.replace(/([a-z])([A-Z0-9])/g, '$1 $2').toLowerCase()
}

function linesAt(origins: Origins, path: string): CitedLines[] {
  const origin = originOf(origins, path)
  return origin?.kind === 'line' ? origin.lines.map(({ from, to }) => ({ record: origin.record, from, to })) : []
}
