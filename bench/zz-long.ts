import { HeldConfig, dialectById, modelOf } from '@jurybox/core'
const d = dialectById('setlines')!
for (const n of [10_000, 20_000, 40_000]) {
const ip = (i: number): string => `10.${(i >> 16) & 255}.${(i >> 8) & 255}.${i & 255}`
const text = Array.from({ length: n }, (_, i) => `set routing-options static route ${ip(i)}/32 preference 7\nset routing-options static route ${ip(i)}/32 next-hop 10.0.0.1`).join('\n')
let t = performance.now(); const tree = d.read(text); console.log(n, 'read', performance.now() - t); t = performance.now()
const held = HeldConfig.of(tree, d); console.log('hold', performance.now() - t); t = performance.now()
const m = modelOf(held, { record: 'r', mask: () => '' }); console.log('model', performance.now() - t, m.model.staticRoutes.length)
}
