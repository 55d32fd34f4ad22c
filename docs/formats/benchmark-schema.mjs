// Writes docs/formats/benchmark.schema.json, the JSON Schema of benchmarks, and the table of conditions in benchmark.md:
// node --import tsx docs/formats/benchmark-schema.mjs
import { readFileSync, writeFileSync } from 'node:fs'
import { z } from 'zod'
import { benchmarkSchema } from '@jurybox/core/benchmarks'
import { CONDITION_DOCS } from '@jurybox/core/rules'

const document = new URL('benchmark.md', import.meta.url)

export function schemaText() {
  return `${JSON.stringify(z.toJSONSchema(benchmarkSchema, { io: 'input', target: 'draft-7' }), null, 1)}\n`
}

/** The document with its table of conditions as the kinds of conditions describe themselves. */
export function documentText() {
  const rows = CONDITION_DOCS.map(({ form, holds }) => `| ${escaped(form)} | ${holds} |`)
  const table = ['| form | holds when |', '|---|---|', ...rows].join('\n')
  return readFileSync(document, 'utf8').replace(/(?<=<!-- conditions -->\n).*(?=\n<!-- end of conditions -->)/s, () => table)
}

/** A bar would end the cell. */
function escaped(text) {
  return text.replaceAll('|', '\\|')
}

if (process.argv[1]?.endsWith('benchmark-schema.mjs')) {
  writeFileSync(new URL('benchmark.schema.json', import.meta.url), schemaText())
  writeFileSync(document, documentText())
}
