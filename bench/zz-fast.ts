import { blank, deviceModelSchema } from '@jurybox/core'
const m: any = blank(deviceModelSchema)
const i: any = blank((deviceModelSchema.shape as any).interfaces.element)
const f = new Function('o', 'return %HasFastProperties(o)')
console.log(f(m), f(i), f(Object.assign(i, { name: 'x' })), f(blank((deviceModelSchema.shape as any).vlans.element)))
const e = new Function('o', '%DebugPrint(o)'); e(i)
