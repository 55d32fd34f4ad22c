import type { AuditChoice } from './entity.ts'
import type { BenchmarkRepository } from '../benchmarks/repository.ts'

/** What is needed of the rest of the server. */
export interface Needs {
  readonly benchmarks: BenchmarkRepository
}

/** What an audit judged by, with the titles of benchmark and profile. */
export async function titledChoices<Choice extends Pick<AuditChoice, 'benchmark' | 'hash' | 'profile'>>(
  { benchmarks }: Needs,
  choices: readonly Choice[],
): Promise<(Choice & { title: string; profileTitle: string })[]> {
  return Promise.all(
    choices.map(async (choice) => {
      const { title, profiles } = (await benchmarks.version(choice.hash)).source
      return {
        ...choice,
        title,
        profileTitle: profiles.find(({ id }) => id === choice.profile)?.title ?? choice.profile,
      }
    }),
  )
}

/** Titles of rules by benchmark and id, with a space between. */
export async function ruleTitles(
  { benchmarks }: Needs,
  choices: readonly Pick<AuditChoice, 'hash'>[],
): Promise<ReadonlyMap<string, string>> {
  const sources = await Promise.all(choices.map(async ({ hash }) => (await benchmarks.version(hash)).source))
  return new Map(
    sources.flatMap((source) => source.rules.map((rule) => [`${source.id} ${rule.id}`, rule.title] as const)),
  )
}
