// Writes docs/formats/benchmark.schema.json, the JSON Schema of benchmarks: node --import tsx
// docs/formats/benchmark-schema.mjs
import { writeFileSync } from 'node:fs'
import { z } from 'zod'
import { benchmarkSchema } from '@jurybox/core/benchmarks'

export function schemaText() {
  return `${JSON.stringify(z.toJSONSchema(benchmarkSchema, { io: 'input', target: 'draft-7' }), null, 1)}\n`
}

if (process.argv[1]?.endsWith('benchmark-schema.mjs')) writeFileSync(new URL('benchmark.schema.json', import.meta.url), schemaText())
