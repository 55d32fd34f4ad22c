import type { Harmless } from '../../../model/mapping.ts'

/** Parts of the listing on which no answer rests. Common practice, from memory. */
export const HARMLESS: readonly Harmless[] = [
  [
    'it says how the device looks to those who manage it, or who may see what',
    [
      'tag ...',
      'shared tag ...',
      'mgt-config password-profile ...',
      'shared admin-role ...',
      'shared reports ...',
      'reports ...',
      'import ...',
    ],
  ],
  [
    'it says how the device keeps itself up to date',
    [
      'deviceconfig system update-schedule ...',
      'deviceconfig system update-server ...',
      'deviceconfig setting config ...',
    ],
  ],
  ['a virtual system is called so', ['display-name ...']],
]
