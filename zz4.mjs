import { compareDevices, comparisonLines } from '@jurybox/core/compare'
import { DeviceAnalysis } from '@jurybox/core/analysis'
import { dialectById } from '@jurybox/core'
import { readRecord } from '@jurybox/core/snapshot'
const d = (t) => new DeviceAnalysis(dialectById('indented'), [{id:'c',kind:'config',tree:readRecord(t,'indented'),takenAt:null}], (s)=>'‹secret:aa›')
const C='hostname core\ninterface lan\n ip access-group IN in\nip access-list extended IN\n permit tcp any any eq 443\n deny ip any any\n'
console.log(comparisonLines(compareDevices(d(C), d(C.replace(' deny ip',' permit tcp any any eq 8080\n deny ip')))).join('\n'))
const x = dialectById('indented')
for (const l of ['ntp server 10.40.0.11 key 7 prefer','ntp server 10.40.0.11 key 7', 'ntp server 10.40.0.11 prefer key 7 version 3']) console.log(l, x.secretsIn(l,null).map(([a,b])=>l.slice(a,b)))
import { secretsAnywhere } from '@jurybox/core/syntax'
console.log(secretsAnywhere('ntp server 10.40.0.11 key 7 prefer'))
