/**
 * Statements that hold several settings of one thing in one line: in set lines each has a line of its own. By the word
 * before the thing's name: the settings, and whether a value follows. Common practice.
 */
const SETTINGS: Readonly<Record<string, Readonly<Record<string, 0 | 1>>>> = {
  'authentication-key': { type: 1, value: 1 },
  server: { key: 1, version: 1, prefer: 0, 'routing-instance': 1 },
  peer: { key: 1, version: 1, prefer: 0 },
}

/**
 * The paths that one statement stands for; most stand for one.
 * @param around the word that the statement stands beneath
 */
export function pathsIn(around: string, words: readonly string[]): readonly (readonly string[])[] {
  const settings = around === 'ntp' ? SETTINGS[words[0] ?? ''] : undefined
  if (!settings || words.length <= 3) return [words]
  const head = words.slice(0, 2)
  const paths: string[][] = []
  for (let i = 2; i < words.length; i++) {
    const word = words[i] ?? ''
    const takes = Object.hasOwn(settings, word) ? (settings[word] ?? 0) : 0
    paths.push([...head, ...words.slice(i, i + 1 + takes)])
    i += takes
  }
  return paths
}
