/** Searching an estate: the question that a text asks, and what answers it. */
export { QuestionError, requiredText, readQuestion, type LineQuestion, type Question } from './question.ts'
export { LineIndex, type LineAnswer, type LineHit } from './line-index.ts'
export {
  EstateIndex,
  FOUND_KINDS,
  tokensOf,
  type FoundHit,
  type FoundKind,
  type FoundPart,
  type ViewedDevice,
} from './estate-index.ts'
