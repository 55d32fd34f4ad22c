import { MaskedLines, type Mask } from '../../syntax/index.ts'
import type { SnapshotDevice } from '../../snapshot/index.ts'
import type { Exhibit } from '../network/exhibit.ts'

/** Lines with their text, as reports show them. Secrets are masked. */
export interface ShownExhibit extends Exhibit {
  readonly text: string
}

/** The texts of lines of a snapshot. */
export class ExhibitTexts {
  readonly #lines = new Map<string, (from: number, to: number) => string>()

  constructor(devices: readonly SnapshotDevice[], mask: Mask) {
    for (const { dialect, records } of devices) {
      for (const { id, tree, text } of records) {
        let masked: MaskedLines | null = null
        let plain: readonly string[] | null = null
        this.#lines.set(id, (from, to) => {
          if (tree) return (masked ??= new MaskedLines(tree, dialect, mask)).range(from, to)
          return (plain ??= text.split(/\r?\n/)).slice(from - 1, to).join('\n')
        })
      }
    }
  }

  show(exhibit: Exhibit): ShownExhibit {
    return { ...exhibit, text: this.#lines.get(exhibit.record)?.(exhibit.from, exhibit.to) ?? '' }
  }
}
