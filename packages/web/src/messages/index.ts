import { createI18n } from 'vue-i18n'
import { en } from './en.ts'

/** The catalogue of texts; English is the only language so far. */
export const i18n = createI18n({ legacy: false, globalInjection: true, locale: 'en', messages: { en } })

/** A text of the catalogue, for scripts; templates use `$t`. */
export const t: (key: string, values?: Record<string, unknown>) => string = i18n.global.t

/** A text with a form for one and a form for several; `{n}` stands for the count. */
export const counted: (key: string, count: number, values?: Record<string, unknown>) => string = (key, count, values) =>
  i18n.global.t(key, values ?? {}, count)
