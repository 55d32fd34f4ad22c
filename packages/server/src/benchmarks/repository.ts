import { citing } from '@jurybox/core/report'
import { IsNull, Not, type DataSource } from 'typeorm'
import { shippedBenchmarks, frameworks } from '@jurybox/content'
import { readBenchmark, type Benchmark } from '@jurybox/core'
import { widestProfile } from '@jurybox/core/audit'
import { frameworkSchema, type Choice, type Framework } from '@jurybox/core/benchmarks'
import { BenchmarkVersions, Fittings, OwnFrameworks, type Fitting } from './entity.ts'
import { OwnBenchmarks } from '../rules/entity.ts'
import type { AuditChoice } from '../audits/entity.ts'
import { Problem } from '../http/problem.ts'

/** Benchmarks that do not ship, kept compiled at a time. */
const VERSIONS = 50

/** The benchmarks that ship, compiled once, and how each engagement fits them. */
export class BenchmarkRepository {
  readonly all: readonly { benchmark: Benchmark; text: string }[]
  /** Those that ship. */
  readonly frameworks: readonly Framework[]
  /** Compiled once: what a hash names never changes. */
  readonly #versions = new Map<string, Benchmark>()

  constructor(readonly database: DataSource) {
    this.all = shippedBenchmarks()
    this.frameworks = frameworks()
  }

  /** The frameworks that ship, and the own controls of an engagement. */
  async frameworksIn(engagementId: number): Promise<readonly Framework[]> {
    const own = await this.database.getRepository(OwnFrameworks).find({ where: { engagementId }, order: { id: 'ASC' } })
    return own.length === 0
      ? this.frameworks
      : [...this.frameworks, ...own.map(({ body }) => frameworkSchema.parse(body))]
  }

  /** Keeps the text of every version that an audit may name. */
  async register(): Promise<void> {
    const versions = this.database.getRepository(BenchmarkVersions)
    for (const { benchmark, text } of this.all) {
      if (await versions.existsBy({ hash: benchmark.hash })) continue
      await versions.insert({
        hash: benchmark.hash,
        benchmark: benchmark.source.id,
        version: benchmark.source.version,
        text,
        createdAt: new Date(),
      })
    }
  }

  /** The benchmarks that an engagement can choose: those that ship, and its own as last published. */
  async allIn(engagementId: number): Promise<{ benchmark: Benchmark; text: string }[]> {
    const published = await this.database
      .getRepository(OwnBenchmarks)
      .find({ where: { engagementId, publishedAt: Not(IsNull()) }, order: { number: 'ASC' } })
    const latest = new Map(published.map((one) => [one.benchmark, one.hash]))
    return [
      ...this.all,
      ...(await Promise.all(
        [...latest.values()].map(async (hash) => ({
          benchmark: await this.version(hash),
          text: await this.textOf(hash),
        })),
      )),
    ]
  }

  /** @throws Problem where the engagement has none of that name */
  async inEngagement(engagementId: number, id: string): Promise<Benchmark> {
    const found = (await this.allIn(engagementId)).find(({ benchmark }) => benchmark.source.id === id)
    if (!found) throw new Problem(404, `There is no benchmark "${id}".`)
    return found.benchmark
  }

  /** The benchmark as it was at an audit, whatever ships today. */
  async version(hash: string): Promise<Benchmark> {
    const current = this.all.find(({ benchmark }) => benchmark.hash === hash)
    if (current) return current.benchmark
    const known = this.#versions.get(hash)
    if (known) return known
    const stored = await this.database.getRepository(BenchmarkVersions).findOneByOrFail({ hash })
    const benchmark = readBenchmark(stored.text)
    if (this.#versions.size >= VERSIONS) this.#versions.clear()
    this.#versions.set(hash, benchmark)
    return benchmark
  }

  /** An audit's choice as the core judges by it. Audits of before there was tailoring name none. */
  async chosen(choice: AuditChoice): Promise<Required<Choice>> {
    const { hash, profile, values, overrides = [], tailoring = [], only = null } = choice
    return { benchmark: await this.version(hash), profile, values, overrides, tailoring, only }
  }

  async textOf(hash: string): Promise<string> {
    return (
      this.all.find(({ benchmark }) => benchmark.hash === hash)?.text ??
      (await this.database.getRepository(BenchmarkVersions).findOneByOrFail({ hash })).text
    )
  }

  async fitting(
    engagementId: number,
    id: string,
  ): Promise<Pick<Fitting, 'profile' | 'valueSet' | 'overrides' | 'tailoring'> & Partial<Fitting>> {
    const stored = await this.database.getRepository(Fittings).findOneBy({ engagementId, benchmark: id })
    return (
      stored ?? {
        profile: widestProfile(await this.inEngagement(engagementId, id)),
        valueSet: {},
        overrides: [],
        tailoring: [],
      }
    )
  }

  async choice(engagementId: number, id: string, profile: string | undefined): Promise<AuditChoice> {
    const benchmark = await this.inEngagement(engagementId, id)
    const { profile: fitted, valueSet, overrides, tailoring } = await this.fitting(engagementId, id)
    return { benchmark: id, hash: benchmark.hash, profile: profile ?? fitted, values: valueSet, overrides, tailoring }
  }

  /** The choices of an audit: for a framework where one is given, else of the benchmarks that are named. */
  async chosenBy(
    engagementId: number,
    framework: string | null,
    named: readonly { readonly benchmark: string; readonly profile?: string | undefined }[],
  ): Promise<AuditChoice[]> {
    if (framework !== null) return this.choicesFor(engagementId, framework)
    return Promise.all(named.map(({ benchmark, profile }) => this.choice(engagementId, benchmark, profile)))
  }

  /**
   * The choices of an audit for a framework: every benchmark with rules or questions that speak to it, as fitted.
   * @throws Problem where there is no such framework, or nothing speaks to it
   */
  async choicesFor(engagementId: number, frameworkId: string): Promise<AuditChoice[]> {
    const framework = (await this.frameworksIn(engagementId)).find(({ id }) => id === frameworkId)
    if (!framework) throw new Problem(422, `There is no framework “${frameworkId}”.`)
    const choices: AuditChoice[] = []
    for (const { benchmark } of await this.allIn(engagementId)) {
      const { rules, attestations } = citing(benchmark.source, framework)
      if (rules.length + attestations.length === 0) continue
      const choice = await this.choice(engagementId, benchmark.source.id, undefined)
      choices.push({ ...choice, framework: frameworkId, only: [...rules] })
    }
    if (choices.length === 0) throw new Problem(422, `No rule and no question speaks to ${framework.title}.`)
    return choices
  }
}
