import type { StageOrder } from './forwarding-rules.ts'

/** The order of stages of routers and firewalls (common practice). */
export const USUAL_STAGES: StageOrder = {
  arriving: [
    { stage: 'unwrapping' },
    { stage: 'interface filter', direction: 'in' },
    { stage: 'reverse path' },
    { stage: 'translation', changes: 'destination' },
    { stage: 'lookup' },
  ],
  leaving: [
    { stage: 'zone policy' },
    { stage: 'translation', changes: 'source' },
    { stage: 'interface filter', direction: 'out' },
    { stage: 'protection' },
  ],
  toDevice: [{ stage: 'management' }],
  own: [{ stage: 'lookup' }, { stage: 'interface filter', direction: 'out' }, { stage: 'protection' }],
}
