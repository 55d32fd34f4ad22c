import type { ModelView } from '@jurybox/api/devices'
import { inject, provide, type InjectionKey, type Ref } from 'vue'
import { valueAt, type Origin } from '@jurybox/core/model'

/** Whatever says where its values are from. */
export interface Sourced {
  readonly origins: Readonly<Record<string, Origin>>
}

const KEY: InjectionKey<Ref<Sourced | null>> = Symbol('origins')

/** Makes the origins of what a page shows known to the values that show parts of it. */
export function provideOrigins(view: Ref<Sourced | null>): void {
  provide(KEY, view)
}

export function useOrigins(): Ref<Sourced | null> {
  const view = inject(KEY)
  if (!view) throw new Error('no origins are provided')
  return view
}

/** The origin of a value: its own, else that of the nearest thing around it. */
export function originIn(origins: Readonly<Record<string, Origin>>, path: string): Origin | null {
  for (let at = path; at !== ''; at = at.slice(0, Math.max(at.lastIndexOf('.'), at.lastIndexOf('['), 0))) {
    const origin = origins[at]
    if (origin) return origin
  }
  return null
}

/** By record and line: what it says, as paths with their values. */
export function sayingsOf({
  model,
  origins,
}: Pick<ModelView, 'model' | 'origins'>): Map<number, Map<number, string[]>> {
  const byRecord = new Map<number, Map<number, string[]>>()
  for (const [path, origin] of Object.entries(origins)) {
    if (origin.kind !== 'line') continue
    const id = Number(origin.record)
    const byLine = byRecord.get(id) ?? new Map<number, string[]>()
    byRecord.set(id, byLine)
    const value = valueAt(model, path)
    const named = nameOf(value)
    const text = named === null ? path : `${path}: ${named}`
    for (const { from, to } of origin.lines)
      for (let line = from; line <= to; line++) byLine.set(line, [...(byLine.get(line) ?? []), text])
  }
  return byRecord
}

/** A plain value, or what an entry of a list is called. */
function nameOf(value: unknown): string | null {
  if (typeof value !== 'object' || value === null) return String(value)
  const { name, address, prefix } = value as Record<string, unknown>
  const found = [name, address, prefix].find((one) => typeof one === 'string')
  return typeof found === 'string' ? found : null
}
