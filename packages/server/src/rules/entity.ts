import { EntitySchema } from 'typeorm'
import { id, int, text, time } from '../db/columns.ts'

/** One save of a benchmark of one's own; its text is kept by its hash. */
export interface OwnBenchmark {
  id: number
  engagementId: number
  benchmark: string
  number: number
  hash: string
  why: string
  createdBy: number
  createdAt: Date
  publishedAt: Date | null
}
export const OwnBenchmarks = new EntitySchema<OwnBenchmark>({
  name: 'own_benchmarks',
  columns: {
    id,
    engagementId: int('engagement_id'),
    benchmark: text('benchmark'),
    number: int('number'),
    hash: text('hash'),
    why: text('why'),
    createdBy: int('created_by'),
    createdAt: time('created_at'),
    publishedAt: time('published_at', true),
  },
})
