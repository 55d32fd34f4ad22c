import type { Framework, Override, Tailoring } from '@jurybox/core/benchmarks'
import { EntitySchema } from 'typeorm'
import { int, json, key, text, time } from '../db/columns.ts'

export interface BenchmarkVersion {
  hash: string
  benchmark: string
  version: string
  text: string
  createdAt: Date
}
export const BenchmarkVersions = new EntitySchema<BenchmarkVersion>({
  name: 'benchmark_versions',
  columns: {
    hash: key(text('hash')),
    benchmark: text('benchmark'),
    version: text('version'),
    text: { type: 'mediumtext', name: 'text' },
    createdAt: time('created_at'),
  },
})

/** How an engagement fits a benchmark: its profile and the values that differ from the defaults. */
export interface Fitting {
  engagementId: number
  benchmark: string
  profile: string
  valueSet: Record<string, string | number | string[]>
  overrides: Override[]
  tailoring: Tailoring[]
  setBy: number
  setAt: Date
}
export const Fittings = new EntitySchema<Fitting>({
  name: 'fittings',
  columns: {
    engagementId: key(int('engagement_id')),
    benchmark: key(text('benchmark')),
    profile: text('profile'),
    valueSet: json('value_set'),
    overrides: json('overrides'),
    tailoring: json('tailoring'),
    setBy: int('set_by'),
    setAt: time('set_at'),
  },
})

/** Own controls of an engagement, as a framework beside those that ship. */
export interface OwnFramework {
  engagementId: number
  id: string
  body: Framework
  createdBy: number
  createdAt: Date
}
export const OwnFrameworks = new EntitySchema<OwnFramework>({
  name: 'own_frameworks',
  columns: {
    engagementId: key(int('engagement_id')),
    id: key(text('id')),
    body: json('body'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
  },
})
