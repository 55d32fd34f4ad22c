import { shippedChecks } from './packages/content/src/index.ts'
import { checkDevices, selectedChecks } from '@jurybox/core/checks'
import { filesAt } from './packages/cli/src/files.ts'
import { readSnapshot } from '@jurybox/core'
import { analysisOf } from '@jurybox/core/analysis'
const lib = shippedChecks(); console.log(lib.checks.length, lib.sets.map((s)=>selectedChecks(s, lib.checks).length))
const mask = (s) => '‹secret›'
const [a,b] = ['scenario/2026-08-24','scenario/2026-11-16'].map((p)=>readSnapshot(filesAt([p]).files))
for (const d of b.devices) {
  const o = a.devices.find((x)=>x.name===d.name)?? d
  const r = checkDevices(lib.checks, analysisOf(o,mask), analysisOf(d,mask))
  console.log(d.name, r.filter(x=>x.outcome==='pass').length,'pass', r.filter(x=>x.outcome==='notchecked').length, 'notchecked', [...new Set(r.map(x=>x.of))])
  for (const x of r) if (!['pass','notchecked'].includes(x.outcome)) console.log('   ', x.outcome, x.check, x.error??'', x.doubt?.code??'', x.doubt?.side??'', JSON.stringify(x.failing.map((f)=>[f.key,f.code,f.before,f.after])).slice(0,300))
}
