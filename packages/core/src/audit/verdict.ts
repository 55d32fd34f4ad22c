/** A verdict as it leaves the core: its lines quoted, its secrets masked, its remediation as commands. */
import { maskCommands, planFor } from '../remediation/index.ts'
import type { JudgedDevice, RawJudgement, RemedyProposal } from '../rules/index.ts'
import type { EffectiveConfig } from '../model/index.ts'
import {
  PhysicalLines,
  maskLine,
  type InactivePart,
  type LocatedTree,
  type Mask,
  type Syntax,
} from '../syntax/index.ts'
import type { Citation, CitingVerdict, Remedy, Verdict } from './document.ts'

/** An output of a command as lines to quote. */
export function plainTree(text: string): LocatedTree {
  return { dialect: '', lines: new PhysicalLines(text), nodes: [], faults: [], unread: [], hostname: null }
}

/** An absence is shown as the range searched; its text would be the whole range, so only short ones are quoted. */
const QUOTED_LINES = 40
/** Of a longer line only the cited columns are shown. */
const LONG_LINE = 400

export function verdictOf(
  raw: RawJudgement,
  device: JudgedDevice,
  benchmark: string,
  references: readonly string[],
  mask: Mask,
): Omit<CitingVerdict, 'values'> {
  const { dialect, scope } = device.effective
  const masked = (text: string): string => maskLine(text, null, dialect, mask)
  return {
    device: device.name,
    benchmark,
    rule: raw.rule,
    outcome: raw.outcome,
    severity: raw.severity,
    branch: raw.branch,
    note: raw.note,
    subjects: raw.subjects.map((subject) => ({ ...subject })),
    exhibits: raw.places.map(({ record, device: other, from, to, absent, columns }): Citation => {
      // Its text belongs to another device and is filled in where the snapshot is at hand.
      if (other !== undefined) return { record, device: other, from, to }
      if (absent) return { record, from, to, absent: true }
      return columns ? { record, from, to, columns: [...columns] } : { record, from, to }
    }),
    missing: raw.missing.map(masked),
    extra: raw.extra.map(masked),
    remedy: remedyOf(raw.remedy, scope, dialect, mask),
    references: [...references],
  }
}

/** Lines of a record as people may see them, from 1. */
export interface ShownLines {
  range(from: number, to: number): string
}

/**
 * Verdicts with the text of the lines that they cite. What other devices said stays empty until it is looked up there.
 * @param linesOf of a record of the device itself; null where there is none
 */
export function quoted<V extends CitingVerdict>(
  verdicts: readonly V[],
  linesOf: (record: string) => ShownLines | null,
): (Omit<V, 'exhibits'> & Pick<Verdict, 'exhibits'>)[] {
  return verdicts.map((verdict) => ({
    ...verdict,
    exhibits: verdict.exhibits.map((citation) => ({
      ...citation,
      text: citation.text ?? (citation.device === undefined ? textOf(citation, linesOf(citation.record)) : ''),
    })),
  }))
}

function textOf({ from, to, absent, columns }: Citation, lines: ShownLines | null): string {
  const isWhole = from === 1 && absent === true && to > QUOTED_LINES
  const said = isWhole || !lines ? '' : lines.range(from, Math.min(to, from + QUOTED_LINES - 1))
  // Of a listing in one line, only what is meant is quoted.
  return columns && from === to && said.length > LONG_LINE ? said.slice(columns[0] - 1, columns[1]) : said
}

function remedyOf(
  proposal: RemedyProposal | null,
  scope: EffectiveConfig['scope'],
  dialect: Syntax,
  mask: Mask,
): Remedy | null {
  if (!proposal) return null
  if (proposal.kind === 'words') return { words: proposal.words }
  const plan = planFor(proposal.edits, scope, dialect)
  return {
    commands: maskCommands(plan.commands, dialect, mask),
    rollback: maskCommands(plan.rollback, dialect, mask),
    risk: proposal.risk,
    check: [...proposal.check, ...plan.activated.map(activationNote)],
    ...(proposal.unrestored ? { unrestored: proposal.unrestored } : {}),
  }
}

/** A note on the statements that become active again with a part. */
function activationNote({ path, statements }: InactivePart): string {
  return (
    `“${path}” is deactivated, and is activated with all that is in it ` +
    `(${statements.length === 1 ? '1 statement' : `${statements.length} statements`})`
  )
}
