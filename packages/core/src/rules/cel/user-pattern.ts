import { RE2JS } from 're2js'
import { Recent, withoutFingerprints } from '../../syntax/index.ts'

/**
 * A compiled RE2 pattern that remembers what it said of recent texts: the linear-time engine is thorough, not quick.
 */
export interface UserPattern {
  test(text: string): boolean
}

const patterns = new Map<string, UserPattern>()

/** Compiles an RE2 pattern once. @throws Error that names the pattern */
export function userPattern(source: string): UserPattern {
  let compiled = patterns.get(source)
  if (!compiled) {
    try {
      compiled = remembering(RE2JS.compile(source))
    } catch (error) {
      throw new Error(
        `Pattern ${JSON.stringify(source)} is not RE2 syntax: ` +
          `${error instanceof Error ? error.message : String(error)}`,
      )
    }
    if (patterns.size > 1_000) patterns.clear()
    patterns.set(source, compiled)
  }
  return compiled
}

function remembering(pattern: RE2JS): UserPattern {
  const recent = new Recent<boolean>(2_000)
  return {
    test: (stated) => {
      const text = withoutFingerprints(stated)
      if (text.length > 240) return pattern.test(text)
      let answer = recent.get(text)
      if (answer === undefined) recent.set(text, (answer = pattern.test(text)))
      return answer
    },
  }
}
