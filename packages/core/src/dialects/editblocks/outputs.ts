/** What commands of devices that list edit blocks print. Common practice, from memory. */
import { beginInterface, type OutputForm } from '../../state/index.ts'

/** Interfaces as blocks: `== [port1]`, then a value a line. */
const INTERFACES: OutputForm = {
  id: 'interfaces in brackets',
  kinds: ['interfaces'],
  looksLike: /^==\[?\s*\[?[\w.-]+\]/m,
  templates: [
    {
      line: /^==\s?\[?\s*(?<name>[\w./-]+)\]?/,
      apply: (w, { name = '' }, memory) => void beginInterface(w, memory, name),
    },
    {
      line: /^\s+ip: (?<address>\d+\.\d+\.\d+\.\d+) (?<mask>255\.\d+\.\d+\.\d+)/,
      apply: (w, { address = '', mask = '' }, memory) => {
        const name = memory.get('interface')
        const length = mask
          .split('.')
          .reduce((bits, part) => bits + (Number(part).toString(2).match(/1/g)?.length ?? 0), 0)
        if (name !== undefined) w.entry('interfaces', { name }).push('addresses', `${address}/${length}`)
      },
    },
    {
      line: /^\s+status: (?<oper>up|down)/,
      apply: (w, { oper = '' }, memory) => {
        const name = memory.get('interface')
        if (name !== undefined) w.entry('interfaces', { name }).set('oper', oper === 'up' ? 'up' : 'down')
      },
    },
  ],
  noted: /^\s+|^$/,
}

export const EDITBLOCKS_OUTPUTS: readonly OutputForm[] = [INTERFACES]
