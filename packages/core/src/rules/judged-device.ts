import { accessListsOfModel, type AccessLists, type HeldConfig, type ModelledDevice } from '../model/index.ts'
import type { JudgedDevice } from './inquiry.ts'

/** A device as rules see it. Its model is made when a rule asks for it, and once. */
export function judgedDevice(name: string, record: string, held: HeldConfig, model: () => ModelledDevice, others: JudgedDevice['others'] = new Map(), listing: JudgedDevice['listing'] = 'ordinary'): JudgedDevice {
  let modelled: ModelledDevice | null = null
  let lists: AccessLists | null = null
  const ask = (): ModelledDevice => (modelled ??= model())
  // Where the dialect is read for its lists alone, no model is needed for them.
  return { name, record, listing, held, others, modelled: ask, accessLists: () => (lists ??= held.dialect.id === 'indented' ? held.accessLists : accessListsOfModel(ask())) }
}
