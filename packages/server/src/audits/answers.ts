import { deserialize, serialize } from 'node:v8'
import { joinAnswers } from '@jurybox/core/audit'
import type { Estate } from '@jurybox/core/rules'

/** @param answers serialized answers of each device, by question */
export function estateFrom(answers: Iterable<readonly [device: string, answers: Uint8Array]>): {
  estate: Estate
  serialized: Uint8Array
} {
  const all = [...answers]
  return { estate: joinedFrom(all), serialized: serialize(all) }
}

/** The same from what `estateFrom` serialized, in another thread. */
export function estateIn(serialized: Uint8Array): Estate {
  return joinedFrom(deserialize(serialized) as [string, Uint8Array][])
}

/** What one device answered, by question. */
export function answersIn(serialized: Uint8Array): ReadonlyMap<string, unknown> {
  return new Map(serialized.length === 0 ? [] : (deserialize(serialized) as [string, unknown][]))
}

function joinedFrom(answers: readonly (readonly [device: string, answers: Uint8Array])[]): Estate {
  return joinAnswers(answers.map(([device, own]) => [device, answersIn(own)] as const))
}
