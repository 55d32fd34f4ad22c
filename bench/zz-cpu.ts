import { HeldConfig, dialectById, maskWithKey, modelOf } from '@jurybox/core'
import { generateDevice } from './generate.ts'
import { Session } from 'node:inspector/promises'
import { readFileSync } from 'node:fs'
const which = process.argv[2] ?? 'indented'
const d = dialectById(which)!
const mask = maskWithKey(new Uint8Array(32))
const demo = (name: string, file = 'config.txt'): string => readFileSync(`/work/main/scenario/2026-11-16/devices/${name}/${file}`, 'utf8')
const gen = (i: number) => which === 'indented' ? generateDevice(i) : which === 'linux' ? demo('dd-gw1','filters.txt').replaceAll('10.40.', `10.${i % 250}.`) : demo(which === 'braced' ? 'ops-fw1' : 'qs-fw1').replaceAll('10.40.', `10.${i % 250}.`).replaceAll('fw1', `fw${i}`)
const texts = Array.from({ length: 300 }, (_, i) => gen(i))
const go = () => { const trees = texts.map((x) => d.read(x)); trees.forEach((x) => modelOf(HeldConfig.of(x, d), { record: 'r', mask })) }
go(); go()
const s = new Session(); s.connect(); await s.post('Profiler.enable'); await s.post('Profiler.setSamplingInterval', { interval: 200 }); await s.post('Profiler.start')
for (let i = 0; i < 8; i++) go()
const { profile } = await s.post('Profiler.stop')
const self = new Map<string, number>(); const total = new Map<string, number>()
const byId = new Map(profile.nodes.map((n) => [n.id, n])); const parent = new Map<number, number>()
for (const n of profile.nodes) for (const c of n.children ?? []) parent.set(c, n.id)
const dt = profile.timeDeltas!; let all = 0
profile.samples!.forEach((id, i) => { const t = dt[i]!; all += t; const seen = new Set<string>(); for (let at: number | undefined = id; at !== undefined; at = parent.get(at)) { const n = byId.get(at)!; const k = `${n.callFrame.functionName}@${n.callFrame.url.split('/').slice(-2).join('/')}:${n.callFrame.lineNumber}`; if (at === id) self.set(k, (self.get(k) ?? 0) + t); if (!seen.has(k)) { seen.add(k); total.set(k, (total.get(k) ?? 0) + t) } } })
const top = (m: Map<string, number>, n: number) => [...m].sort((a, b) => b[1] - a[1]).slice(0, n).forEach(([k, v]) => console.log((100 * v / all).toFixed(1).padStart(6), k))
console.log('self'); top(self, 34); console.log('total'); top(total, 50)
