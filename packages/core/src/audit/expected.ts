import { mustWords, type Expectation, type ExpectationAnswer, type ForwardingExhibit } from '../forwarding/index.ts'
import type { ExpectedVerdict } from './document.ts'

/** What stands for the benchmark of a verdict that rests on an expectation. */
export const EXPECTATIONS = 'expectations'

const OUTCOMES = { met: 'pass', violated: 'fail', undecided: 'unknown' } as const

/**
 * The verdicts of expectations: one that holds passes, one that is broken fails, and one that is undecided is unknown.
 * @param textOf the lines of an exhibit, masked
 */
export function expectedVerdicts(
  answered: readonly { readonly stated: Expectation; readonly answer: ExpectationAnswer }[],
  textOf: (exhibit: ForwardingExhibit) => string,
): ExpectedVerdict[] {
  return answered.map(({ stated, answer }): ExpectedVerdict => {
    const path = answer.example?.trace.paths[0]
    return {
      device: path?.device ?? '',
      benchmark: EXPECTATIONS,
      rule: stated.id,
      outcome: OUTCOMES[answer.outcome],
      severity: stated.severity,
      branch: answer.outcome,
      title: stated.title,
      statement:
        `From ${stated.from.join(', ')} to ${stated.to.join(', ')}` +
        `${stated.only === undefined ? '' : `, ${stated.only}`}: ${mustWords(stated.must)}.`,
      note: answer.words + (answer.packets ? `: ${packetWords(answer.packets)}` : ''),
      subjects: [],
      exhibits: answer.exhibits.map((exhibit) => ({
        record: exhibit.record,
        from: exhibit.from,
        to: exhibit.to,
        text: textOf(exhibit),
      })),
      missing: [...answer.missing],
      extra: [],
      remedy: null,
      references: [...stated.references],
      values: [],
    }
  })
}

function packetWords({ readable }: NonNullable<ExpectationAnswer['packets']>): string {
  return `${readable.classes.join('; or ')}${readable.whole ? '' : '; and more'}`
}
