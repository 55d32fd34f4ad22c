import { inject, provide, type InjectionKey, type Ref } from 'vue'
import type { Origin } from '@jurybox/core'
import type { ModelView } from '../api/types.ts'

const KEY: InjectionKey<Ref<ModelView | null>> = Symbol('device model')

/** Makes the model of a device known to the values that show parts of it. */
export function provideModel(view: Ref<ModelView | null>): void {
  provide(KEY, view)
}

export function useModel(): Ref<ModelView | null> {
  const view = inject(KEY)
  if (!view) throw new Error('no device model is provided')
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

/** By line: what it says, as paths with their values. */
export function sayingsOf({ model, origins }: Pick<ModelView, 'model' | 'origins'>): Map<number, string[]> {
  const byLine = new Map<number, string[]>()
  for (const [path, origin] of Object.entries(origins)) {
    if (origin.kind !== 'line') continue
    const value = valueAt(model, path)
    const text = typeof value === 'object' && value !== null ? path : `${path}: ${String(value)}`
    for (const { from, to } of origin.lines) for (let line = from; line <= to; line++) byLine.set(line, [...(byLine.get(line) ?? []), text])
  }
  return byLine
}

function valueAt(model: unknown, path: string): unknown {
  return path.split(/[.[\]]+/).filter(Boolean).reduce<unknown>((at, step) => (typeof at === 'object' && at !== null ? (at as Record<string, unknown>)[step] : undefined), model)
}
