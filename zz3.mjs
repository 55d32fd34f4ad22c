import { features } from './packages/content/src/index.ts'
import { deriveReference, CompiledReference } from '@jurybox/core/references'
import { filesAt } from './packages/cli/src/files.ts'
import { readSnapshot } from '@jurybox/core'
import { analysisOf } from '@jurybox/core/analysis'
import { stringify } from 'yaml'
const mask = (s) => '‹secret:aa11›'
const b = readSnapshot(filesAt(['scenario/2026-11-16']).files)
const devices = b.devices.map((d)=>({name:d.name, analysis: analysisOf(d,mask)}))
for (const f of features()) {
  const r = deriveReference(devices, f, 'indented')
  if (!r) { console.log(f.id, 'none'); continue }
  console.log('=====', f.id, r.derived.samples); console.log(stringify(r.reference.parts, {lineWidth: 0}).slice(0, 1500))
  console.log(JSON.stringify(r.derived.values.slice(0,3)).slice(0,400))
  for (const o of r.derived.outliers.slice(0,4)) console.log('   ', o.name, o.deviations.map((d)=>d.kind+' '+[...d.block,d.text].join(' › ')).slice(0,6))
  const c = new CompiledReference(r.reference)
  console.log(devices.map((d)=>{const a=c.answer(d.analysis,{name:d.name,labels:{}}); return d.name+':'+a.outcome+' '+a.lines.filter(l=>l.state!=='matching').length+' cmds '+a.commands.length}).filter(x=>!x.includes('outside')).slice(0,8).join(' | '))
}
