/** Rules as data: their schema, their conditions, and the decision. */
export { compileRule, type RawJudgement, type Rule } from './judge.ts'
export { Estate, EstateView, type EstateAnswers, type Seen } from './estate.ts'
export { alteredBy, concerns, restsOn, type Altered, type ChangedAnswers } from './answer-changes.ts'
export { type DeviceContext, type JudgedDevice } from './judged.ts'
export { compileExpression, fieldsIn, userPattern, type Expression } from './expression.ts'
export { expressionText, patternText, scopeText } from './compiled-text.ts'
export { outcomeSchema, riskSchema, severitySchema, type Outcome, type Risk, type Severity } from './outcome.ts'
export { ruleSchema, valueSchema, type Example, type RuleBody, type RuleSource, type ValueSource } from './schema.ts'
export { CONDITION_DOCS, CONDITION_FORMS, conditionInWords, conditionSchema, type Condition } from './conditions.ts'
export type { FormField } from './conditions/kind.ts'
export { type RuleNeeds } from './needs.ts'
export { combine, type Edit, type Exhibit, type Judgement, type RemedyProposal } from './verdict.ts'
export { type CitedRange } from './evidence.ts'
export { judgedDevice, type DeviceParts } from './judged-device.ts'
export { Clock } from './clock.ts'
export { MODEL_ROOTS, factsByName } from './names.ts'
export { compileScope, type ScopeAnswer } from './scope.ts'
export { OpaqueLines } from './opaque.ts'
export { CompiledTemplate, LINE_STATES, type ConformingLine, type LineState, type TemplateDoubt } from './template.ts'
export {
  templatePartSchema,
  templateSchema,
  templateValueSchema,
  type Template,
  type TemplatePart,
  type TemplateValue,
} from './template-schema.ts'
export { sameName } from './link-end.ts'
export { askOne, type EstateQuestion } from './estate-question.ts'
