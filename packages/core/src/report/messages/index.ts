/** The catalogue of the texts of reports: a language more is a catalogue more. */
import {
  compile,
  createCoreContext,
  registerMessageCompiler,
  registerMessageResolver,
  resolveWithKeyValue,
  translate,
} from '@intlify/core-base'
import { en } from './en.ts'

export type ReportText = keyof typeof en
/** By language (BCP 47). English is the only one so far; each must have every text. */
const CATALOGUES = { en } as const satisfies Readonly<Record<string, Readonly<Record<ReportText, string>>>>
export type ReportLanguage = keyof typeof CATALOGUES
export const DEFAULT_LANGUAGE: ReportLanguage = 'en'

type Values = Readonly<Record<string, string | number>>

/** A text with its values. @param count chooses between a form for one and a form for several, and is `{n}` */
export type Say = (text: ReportText, values?: Values, count?: number) => string

/** Texts are escaped where they are written into HTML. */
const QUIET = { warnHtmlMessage: false } as const

registerMessageCompiler(compile)
registerMessageResolver(resolveWithKeyValue)

/** Says texts of a catalogue. */
export function saying(language: string, catalogue: Readonly<Record<ReportText, string>>): Say {
  const context = createCoreContext({ locale: language, messages: { [language]: catalogue }, ...QUIET })
  return (text, values = {}, count) =>
    String(
      count === undefined ? translate(context, text, values) : translate(context, text, { ...values, n: count }, count),
    )
}

const known = new Map<ReportLanguage, Say>()

/** What says the texts of a language. */
export function textsOf(language: ReportLanguage): Say {
  const say = known.get(language) ?? saying(language, CATALOGUES[language])
  known.set(language, say)
  return say
}
