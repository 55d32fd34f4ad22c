import { HeldConfig, dialectById, maskWithKey, modelOf } from '@jurybox/core'
import { generateDevice } from './generate.ts'
import { Session } from 'node:inspector/promises'
const d = dialectById('indented')!
const mask = maskWithKey(new Uint8Array(32))
const texts = Array.from({ length: 200 }, (_, i) => generateDevice(i))
const trees = texts.map((x) => d.read(x))
const go = () => { trees.forEach((x) => modelOf(HeldConfig.of(x, d), { record: 'r', mask })) }
go(); go()
const s = new Session(); s.connect(); await s.post('HeapProfiler.enable'); await s.post('HeapProfiler.startSampling', { samplingInterval: 4096, includeObjectsCollectedByMajorGC: true, includeObjectsCollectedByMinorGC: true } as never)
for (let i = 0; i < 4; i++) go()
const { profile } = await s.post('HeapProfiler.stopSampling')
const m = new Map<string, number>(); let all = 0
const visit = (n: typeof profile.head): void => { const k = `${n.callFrame.functionName}@${n.callFrame.url.split('/').slice(-2).join('/')}:${n.callFrame.lineNumber}`; m.set(k, (m.get(k) ?? 0) + n.selfSize); all += n.selfSize; n.children.forEach(visit) }
visit(profile.head)
console.log(Math.round(all / 800 / 1024), 'KB per device')
;[...m].sort((a, b) => b[1] - a[1]).slice(0, 25).forEach(([k, v]) => console.log((100 * v / all).toFixed(1), k))
