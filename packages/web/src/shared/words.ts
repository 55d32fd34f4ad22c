import { t } from '../messages/index.ts'

/** Lines as they are cited; lines count from 1. */
export function lineWords(from: number, to = from): string {
  return from === to ? t('common.line', { from }) : t('common.lineRange', { from, to })
}

/** The first names of a list, and how many more there are. */
export function firstOf(names: readonly string[], shown: number): string {
  const first = names.slice(0, shown).join(', ')
  return names.length > shown ? `${first} ${t('common.andMore', { n: names.length - shown })}` : first
}

/** `4.2 %`, of a share from 0 to 1. */
export function shareWords(share: number | null): string {
  return share === null ? '' : `${Number((share * 100).toPrecision(2))} %`
}

/** `4.2 MB`, of bytes. */
export function sizeWords(bytes: number): string {
  const unit = bytes < 1e6 ? 'kB' : bytes < 1e9 ? 'MB' : 'GB'
  const of = { kB: 1e3, MB: 1e6, GB: 1e9 }[unit]
  return `${Number((bytes / of).toPrecision(2))} ${unit}`
}
