import type { Condition } from './schema.ts'

/** A condition as a person would say it; patterns stand in ‹…›. */
export function conditionInWords(condition: Condition): string {
  if (typeof condition === 'string') return `there is ${quoted(condition)}`
  if ('line' in condition && condition.line !== undefined) return `there is ${quoted(condition.line)}${where(condition.where)}`
  if ('absent' in condition && condition.absent !== undefined) return `there is no ${quoted(condition.absent)}${where(condition.where)}`
  if ('all' in condition) return joined(condition.all, ' and ')
  if ('any' in condition) return joined(condition.any, ' or ')
  if ('none' in condition) return `it is not so that ${joined(condition.none, ' or ')}`
  if ('expr' in condition) return condition.expr
  if ('device' in condition) return `on the device, ${conditionInWords(condition.device)}`
  if ('set' in condition) return `the ${condition.set.take} in ${quoted(condition.set.of)} ${condition.set.equals === undefined ? `all lie within ${condition.set.within ?? ''}` : `are exactly ${condition.set.equals}`}`
  if ('list' in condition) return `the ${condition.list.family} list ${condition.list.name} is ${condition.list.is}`
  if ('admits' in condition) return `the list ${condition.admits.list} lets in a packet from ${condition.admits.sources}`
  if ('body' in condition) return `the text of ${quoted(condition.body.of)} matches ${condition.body.found}`
  if ('some' in condition) return `some block ${quoted(condition.some.block)} has that ${conditionInWords(condition.some.has)}`
  if ('only' in condition) return `there is nothing but ${quoted(condition.only)}`
  if ('collect' in condition) return `${condition.collect.as} being the ${condition.collect.take} in ${quoted(condition.collect.of)}`
  if ('record' in condition) return `there is a ${condition.record} record`
  if ('differs' in condition) return `the ${condition.differs} record differs`
  if ('model' in condition) return condition.model
  return JSON.stringify(condition)
}

function quoted(patterns: string | readonly string[]): string {
  return [patterns].flat().map((pattern) => `‹${pattern}›`).join(' or ')
}

function where(expression: string | undefined): string {
  return expression === undefined ? '' : ` where ${expression}`
}

function joined(conditions: readonly Condition[], by: string): string {
  const parts = conditions.map((part) => {
    const words = conditionInWords(part)
    return conditions.length > 1 && typeof part !== 'string' && ('all' in part || 'any' in part || 'none' in part) ? `(${words})` : words
  })
  return parts.join(by)
}
