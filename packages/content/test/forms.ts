import type { Example } from '@jurybox/core/rules'

/**
 * Set lines in braces: every word a block, the last one a statement. What is deactivated is marked, what is deleted
 * left out.
 */
function inBraces(config: string): string {
  const lines = config.split('\n').map((line) => line.match(/"(?:[^"\\]|\\.)*"|\[[^\]]*\]|\S+/g) ?? [])
  const beginsWith = (path: readonly string[], head: readonly string[]): boolean =>
    head.every((word, i) => path[i] === word)
  const gone = lines.flatMap(([verb, ...path], at) => (verb === 'delete' ? [{ path, at }] : []))
  const asleep = lines.flatMap(([verb, ...path]) => (verb === 'deactivate' ? [path] : []))
  return lines
    .flatMap(([verb, ...path], at) => {
      if (verb !== 'set' || gone.some((other) => other.at > at && beginsWith(path, other.path))) return []
      const marks = asleep.filter((head) => beginsWith(path, head)).map((head) => head.length - 1)
      const words = path.map((word, i) => (marks.includes(i) ? `inactive: ${word}` : word))
      const last = words.pop() ?? ''
      // A list belongs to the word before it.
      const statement = last.startsWith('[') ? `${words.pop() ?? ''} ${last}` : last
      return [`${words.map((word) => `${word} {\n`).join('')}${statement};\n${'}\n'.repeat(words.length)}`]
    })
    .join('')
}

/** The same example in every form that its dialect has. */
export function formsOf(example: Example): Example[] {
  if (example.dialect !== 'setlines') return [example]
  return [
    example,
    {
      ...example,
      dialect: 'braced',
      config: inBraces(example.config),
      others: Object.fromEntries(Object.entries(example.others).map(([name, config]) => [name, inBraces(config)])),
      ...(example.saved === undefined ? {} : { saved: inBraces(example.saved) }),
    },
  ]
}
