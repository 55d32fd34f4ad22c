import type { Bound, Mapping } from '../../../model/mapping.ts'
import type { DeviceModel } from '../../../model/schema/index.ts'
import type { Writer } from '../../../model/writer.ts'

type Nat = DeviceModel['nat'][number]

/** Sets of rules, and rules by the names of their set and their own; each side of translation has its own. */
const SIDES = ['source', 'destination', 'static'] as const

function set(w: Writer<DeviceModel>, b: Bound, side: string): Writer<Nat> {
  return w.entry('nat', { kind: `${side} rule-set`, statement: b.text('set') })
}
function rule(w: Writer<DeviceModel>, b: Bound, side: string): Writer<Nat> {
  return w.entry('nat', { kind: `${side} rule`, statement: `${b.text('set')} ${b.text('rule')}` })
}
function pool(w: Writer<DeviceModel>, b: Bound, side: string): Writer<Nat> {
  return w.entry('nat', { kind: `${side} pool`, statement: b.text('pool') })
}

export const NAT: readonly Mapping<DeviceModel>[] = [
  ...SIDES.flatMap((side): Mapping<DeviceModel>[] => [
    [`security nat ${side} rule-set <set> from zone <zone>`, (w, b) => set(w, b, side).set('fromZone', b.text('zone'))],
    [`security nat ${side} rule-set <set> to zone <zone>`, (w, b) => set(w, b, side).set('toZone', b.text('zone'))],
    [
      `security nat ${side} rule-set <set> rule <rule> match source-address <prefix>`,
      (w, b) => rule(w, b, side).push('sources', b.text('prefix')),
    ],
    [
      `security nat ${side} rule-set <set> rule <rule> match destination-address <prefix>`,
      (w, b) => rule(w, b, side).push('destinations', b.text('prefix')),
    ],
    [
      `security nat ${side} rule-set <set> rule <rule> match destination-port <port:int>`,
      (w, b) => {
        const one = rule(w, b, side)
        one.set('destinationPorts', [...one.target.destinationPorts, [b.number('port'), b.number('port')]])
      },
    ],
    [`security nat ${side} rule-set <set> rule <rule> description ...`, (w, b) => rule(w, b, side)],
    [`security nat ${side} rule-set <set> description ...`, (w, b) => set(w, b, side)],
  ]),
  [
    'security nat source rule-set <set> rule <rule> then source-nat interface',
    (w, b) => rule(w, b, 'source').set('changes', 'source').set('address', 'interface'),
  ],
  [
    'security nat source rule-set <set> rule <rule> then source-nat pool <pool>',
    (w, b) => rule(w, b, 'source').set('changes', 'source').set('pool', b.text('pool')),
  ],
  [
    'security nat source rule-set <set> rule <rule> then source-nat off',
    (w, b) => rule(w, b, 'source').set('address', 'off'),
  ],
  [
    'security nat destination rule-set <set> rule <rule> then destination-nat pool <pool>',
    (w, b) => rule(w, b, 'destination').set('changes', 'destination').set('pool', b.text('pool')),
  ],
  [
    'security nat destination rule-set <set> rule <rule> then destination-nat off',
    (w, b) => rule(w, b, 'destination').set('address', 'off'),
  ],
  [
    'security nat static rule-set <set> rule <rule> then static-nat prefix <prefix>',
    (w, b) => rule(w, b, 'static').set('changes', 'destination').set('address', b.text('prefix')),
  ],
  ['security nat source pool <pool> address <prefix>', (w, b) => pool(w, b, 'source').set('address', b.text('prefix'))],
  [
    'security nat source pool <pool> address <prefix> to <last>',
    (w, b) => pool(w, b, 'source').set('address', `${bare(b.text('prefix'))}-${bare(b.text('last'))}`),
  ],
  ['security nat source pool <pool> port no-translation', (w, b) => pool(w, b, 'source').set('ports', 'same')],
  [
    'security nat destination pool <pool> address <prefix>',
    (w, b) => pool(w, b, 'destination').set('address', b.text('prefix')),
  ],
  [
    'security nat destination pool <pool> address <prefix> port <port:int>',
    (w, b) =>
      pool(w, b, 'destination')
        .set('address', b.text('prefix'))
        .set('ports', String(b.number('port'))),
  ],
  [
    'security nat destination pool <pool> address port <port:int>',
    (w, b) => pool(w, b, 'destination').set('ports', String(b.number('port'))),
  ],
  // Anything else may change what is translated: it stands as it is written.
  ['security nat <what...>', (w, b) => w.add('nat', { kind: b.words('what')[0] ?? '', statement: b.text('what') })],
]

function bare(prefix: string): string {
  return prefix.split('/')[0] ?? prefix
}
