import type { Plugin } from 'vue'
import { createI18n } from 'vue-i18n'
import { grouped } from '../shared/numbers.ts'
import { en } from './en.ts'

/** The catalogue of texts; English is the only language so far. */
const i18n = createI18n({ legacy: false, globalInjection: true, locale: 'en', messages: { en } })

type Values = Readonly<Record<string, unknown>>

/** Values that count things: their thousands are grouped. Others, such as a line or a port, are names. */
const COUNTS = new Set(
  (
    'n count total done all shown devices records lines unread links steps verdicts rules findings rows hits ' +
    'entries interfaces labels facts changes inside undecided outside selected'
  ).split(' '),
)
const shownValues = (values: Values): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(values).map(([name, value]) => [
      name,
      typeof value === 'number' && COUNTS.has(name) ? grouped(value) : value,
    ]),
  )

/** A text of the catalogue, for scripts; templates use `$t`. */
export const t: (key: string, values?: Values) => string = (key, values) =>
  values === undefined ? i18n.global.t(key) : i18n.global.t(key, shownValues(values))

/** A text with a form for one and a form for several; `{n}` stands for the count. */
export const counted: (key: string, count: number, values?: Values) => string = (key, count, values = {}) =>
  i18n.global.t(key, { ...shownValues(values), n: grouped(count) }, count)

/** Makes the texts known to templates. */
export const texts: Plugin = {
  install(app) {
    app.use(i18n)
    app.config.globalProperties.$t = ((key: string, values?: Values | number) =>
      typeof values === 'number' ? counted(key, values) : t(key, values)) as typeof app.config.globalProperties.$t
  },
}
