import type { Harmless } from '../../../model/mapping.ts'

/** Parts of the configuration on which no answer rests. Common practice, from memory. */
export const HARMLESS: readonly Harmless[] = [
  [
    'it says how the device looks to those who manage it',
    [
      'config system custom-language ...',
      'config system settings set gui-theme ...',
      'config system dashboard ...',
      'config system object-tagging ...',
      'config system replacemsg-image ...',
      'config system replacemsg-group ...',
      'config system physical-switch ...',
      'config system virtual-switch ...',
      'config system storage ...',
      'config system console set output ...',
      'config system email-server ...',
      'config system session-helper ...',
      'config system autoupdate ...',
      'config system auto-install ...',
    ],
  ],
  ['it says which certificates are withdrawn', ['config vpn certificate crl ...']],
]
