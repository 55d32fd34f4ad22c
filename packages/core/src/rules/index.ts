/** Rules as data: their schema, their conditions, and the decision. */
export { compileRule, type RawJudgement, type Rule } from './judge.ts'
export { type JudgedDevice } from './inquiry.ts'
export { compileExpression, userPattern } from './expression.ts'
export { outcomeSchema, riskSchema, ruleSchema, severitySchema, valueSchema, type Condition, type Outcome, type Risk, type RuleBody, type RuleSource, type Severity, type ValueSource } from './schema.ts'
export { conditionInWords } from './words.ts'
export { combine, type Edit, type Exhibit, type Judgement, type RemedyProposal } from './verdict.ts'
export { type Place } from './evidence.ts'
export { judgedDevice } from './judged-device.ts'
