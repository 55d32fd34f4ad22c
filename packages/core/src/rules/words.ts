import type { Condition } from './schema.ts'

/** A condition as a person would say it; patterns stand in ‹…›. */
export function conditionInWords(condition: Condition): string {
  if (typeof condition === 'string') return `there is ${quoted(condition)}`
  if ('line' in condition && condition.line !== undefined)
    return `there is ${quoted(condition.line)}${placed(condition.in)}${where(condition.where)}`
  if ('absent' in condition && condition.absent !== undefined)
    return `there is no ${quoted(condition.absent)}${placed(condition.in)}${where(condition.where)}`
  if ('matching' in condition) return `a line${placed(condition.in)} matches ${condition.matching}`
  if ('holds' in condition)
    return `all of this holds: ${linesOf(condition.holds)
      .map((line) => `‹${line}›`)
      .join(', ')}`
  if ('exactly' in condition)
    return `the lines ${quoted(condition.exactly.of)}${placed(condition.in)} are exactly ${[condition.exactly.lines]
      .flat()
      .flatMap(linesOf)
      .map((line) => `‹${line}›`)
      .join(', ')}`
  if ('order' in condition)
    return `there are, in this order${condition.contiguous ? ' and with nothing between them' : ''}${placed(condition.in)}, ${condition.order.map((line) => `‹${line}›`).join(', ')}`
  if ('count' in condition)
    return `there are ${bounds(condition.count.atLeast, condition.count.atMost)} lines ${quoted(condition.count.of)}${placed(condition.in)}${where(condition.count.where)}`
  if ('state' in condition)
    return `${condition.state}, by the output ${[condition.of].flat().join(' and ')}${condition.maxAge === undefined ? '' : ` of the last ${condition.maxAge} s`}`
  if ('change' in condition) return changed(condition.change)
  if ('same' in condition)
    return `${condition.same} is the same on all devices${condition.among === undefined ? '' : ` for which ${condition.among}`}`
  if ('unique' in condition) return `no other device has ${condition.unique}`
  if ('access' in condition)
    return condition.access.is === 'open'
      ? `the list ${condition.access.list} lets whoever likes use ${condition.access.service}`
      : `the list ${condition.access.list} is not defined`
  if ('outside' in condition) return `${condition.outside} faces the outside`
  if ('opens' in condition)
    return `the filters of the device let whoever likes connect to ${condition.opens.service} over ${condition.opens.family === 'ipv4' ? 'IPv4' : 'IPv6'}`
  if ('ends' in condition && condition.ends === 'known') return 'the other end of a link is known'
  if ('ends' in condition) return `both ends of every link agree about ${AGREEMENTS[condition.ends]}`
  if ('all' in condition) return joined(condition.all, ' and ')
  if ('any' in condition) return joined(condition.any, ' or ')
  if ('none' in condition) return `it is not so that ${joined(condition.none, ' or ')}`
  if ('expr' in condition) return condition.expr
  if ('device' in condition) return `on the device, ${conditionInWords(condition.device)}`
  if ('set' in condition)
    return `the ${condition.set.take} in ${quoted(condition.set.of)} ${condition.set.equals === undefined ? `all lie within ${condition.set.within ?? ''}` : `are exactly ${condition.set.equals}`}`
  if ('list' in condition) return `the ${condition.list.family} list ${condition.list.name} is ${condition.list.is}`
  if ('admits' in condition)
    return `the list ${condition.admits.list} lets in a packet from ${condition.admits.sources}`
  if ('body' in condition) return `the text of ${quoted(condition.body.of)} matches ${condition.body.found}`
  if ('some' in condition)
    return `some block ${quoted(condition.some.block)} has that ${conditionInWords(condition.some.has)}`
  if ('only' in condition) return `there is nothing but ${quoted(condition.only)}`
  if ('collect' in condition)
    return `${condition.collect.as} being the ${condition.collect.take} in ${quoted(condition.collect.of)}`
  if ('record' in condition) return `there is a ${condition.record} record`
  if ('differs' in condition) return `the ${condition.differs} record differs`
  if ('model' in condition) return condition.model
  return JSON.stringify(condition)
}

const AGREEMENTS = {
  known: '',
  mtu: 'the MTU',
  speed: 'speed and duplex',
  vlans: 'the VLANs',
  ospf: 'area, timers and authentication of OSPF',
  protection: 'its protection',
} as const

function changed({ of, is, by, percent }: Extract<Condition, { change: object }>['change']): string {
  switch (is) {
    case 'unchanged':
      return `${of} is what it was`
    case 'appeared':
      return `something new is in ${of}`
    case 'vanished':
      return `something is gone from ${of}`
    case 'grew':
      return `${of} grew`
    case 'kept':
      return `${of} did not shrink`
    case 'within':
      return `${of} is within ${percent === undefined ? (by ?? 0) : `${percent} %`} of what it was`
  }
}

function bounds(atLeast: number | undefined, atMost: number | undefined): string {
  if (atLeast !== undefined && atMost !== undefined)
    return atLeast === atMost ? `exactly ${atLeast}` : `${atLeast} to ${atMost}`
  return atLeast === undefined ? `at most ${atMost ?? 0}` : `at least ${atLeast}`
}

function placed(chain: string | readonly string[] | undefined): string {
  return chain === undefined
    ? ''
    : ` in ${[chain]
        .flat()
        .map((step) => `‹${step}›`)
        .join(' › ')}`
}

function linesOf(text: string): string[] {
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
}

function quoted(patterns: string | readonly string[]): string {
  return [patterns]
    .flat()
    .map((pattern) => `‹${pattern}›`)
    .join(' or ')
}

function where(expression: string | undefined): string {
  return expression === undefined ? '' : ` where ${expression}`
}

function joined(conditions: readonly Condition[], by: string): string {
  const parts = conditions.map((part) => {
    const words = conditionInWords(part)
    return conditions.length > 1 && typeof part !== 'string' && ('all' in part || 'any' in part || 'none' in part)
      ? `(${words})`
      : words
  })
  return parts.join(by)
}
