import type { LineTemplate, OutputForm } from './lines.ts'
import type { DeviceState } from './schema.ts'

type Kind = DeviceState['parts'][number]['kind']

function kindOf(words: string): Kind {
  if (/fan/i.test(words)) return 'fan'
  if (/power|psu|\bps\d/i.test(words)) return 'power'
  return /temp|therm/i.test(words) ? 'temperature' : 'other'
}

const isOk = (word: string): boolean => /^(?:ok|good|normal|up|green|present)$/i.test(word)

const PARTS: readonly LineTemplate[] = [
  // `Fans  Fan 1  OK  Spinning at normal speed`: columns parted by two spaces or more.
  {
    line: /^(?<group>Temp|Fans?|Power|Misc)?\s+(?<name>\S(?:\S| \S)*?)\s{2,}(?<state>OK|Absent|Testing|Failed|Check)(?:\s{2,}(?<reading>\S.*))?$/,
    apply: (w, { group = '', name = '', state = '', reading = '' }, memory) => {
      if (group !== '') memory.set('group', group)
      if (state !== 'Absent')
        w.add('parts', {
          kind: kindOf(`${memory.get('group') ?? ''} ${name}`),
          name,
          ok: isOk(state),
          reading: reading || null,
        })
    },
  },
  // `FAN 1 is OK`, `SYSTEM TEMPERATURE is OK`
  {
    line: /^(?<name>[A-Za-z][\w /-]{0,60}?) is (?<state>[A-Z][\w ]*)$/,
    apply: (w, { name = '', state = '' }) => void w.add('parts', { kind: kindOf(name), name, ok: isOk(state.trim()) }),
  },
  // `PS1: OK, 12.1 V`
  {
    line: /^(?<name>[A-Za-z][\w /-]{0,60}?): (?<state>[A-Za-z]+)(?:, (?<reading>\S.*))?$/,
    apply: (w, { name = '', state = '', reading = '' }) =>
      void w.add('parts', { kind: kindOf(name), name, ok: isOk(state), reading: reading || null }),
  },
]

const ALARMS: readonly LineTemplate[] = [
  { line: /^(?:No (?:alarms|active alarms)|\d+ alarms? currently active|Alarm time\s)/i, apply: () => undefined },
  {
    line: /^(?<since>\d{4}-\d\d-\d\d \d\d:\d\d:\d\d(?: [A-Z]{2,5})?)\s{1,10}(?<severity>[A-Z][a-z]+)\s{1,10}(?<text>\S.*)$/,
    apply: (w, { since = '', severity = '', text = '' }) =>
      void w.add('alarms', { text, severity: severity.toLowerCase(), since }),
  },
  {
    line: /^(?<severity>CRITICAL|MAJOR|MINOR|INFO)\b[:\s]+(?<text>[^:\s].*)$/i,
    apply: (w, { severity = '', text = '' }) => void w.add('alarms', { text, severity: severity.toLowerCase() }),
  },
  { line: /^(?<text>\S.*)$/, apply: (w, { text = '' }) => void w.add('alarms', { text }) },
]

/** Fans, power, temperatures and alarms. Words by common practice, from memory. */
export const HEALTH: readonly OutputForm[] = [
  {
    id: 'environment',
    kinds: ['environment'],
    looksLike: /\b(?:OK|Failed|Check|Absent|normal|good)\b/i,
    templates: PARTS,
    noted: /^(?:Class\s|Item\s|-+$)/i,
  },
  { id: 'alarms', kinds: ['alarms'], looksLike: /./, templates: ALARMS, noted: /./ },
]
