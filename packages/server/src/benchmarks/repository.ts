import { IsNull, Not, type DataSource } from 'typeorm'
import { shippedBenchmarks, frameworks } from '@jurybox/content'
import { readBenchmark, type Benchmark } from '@jurybox/core'
import { widestProfile } from '@jurybox/core/audit'
import type { Choice, Framework } from '@jurybox/core/benchmarks'
import { BenchmarkVersions, Fittings, OwnBenchmarks, type AuditChoice, type Fitting } from '../db/entities.ts'
import { Problem } from '../http/problem.ts'

/** Benchmarks that do not ship, kept compiled at a time. */
const VERSIONS = 50

/** The benchmarks that ship, compiled once, and how each engagement fits them. */
export class BenchmarkRepository {
  readonly all: readonly { benchmark: Benchmark; text: string }[]
  readonly frameworks: readonly Framework[]
  /** Compiled once: what a hash names never changes. */
  readonly #versions = new Map<string, Benchmark>()

  constructor(readonly database: DataSource) {
    this.all = shippedBenchmarks()
    this.frameworks = frameworks()
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
  async chosen({ hash, profile, values, overrides = [], tailoring = [] }: AuditChoice): Promise<Required<Choice>> {
    return { benchmark: await this.version(hash), profile, values, overrides, tailoring }
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
}
