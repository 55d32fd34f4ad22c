/** Reference configurations: what a group of devices is meant to contain, and who departs from it. */
export {
  CompiledReference,
  readReferences,
  type EffectiveValue,
  type ReferenceAnswer,
  type ReferenceLine,
} from './conformance.ts'
export {
  derived,
  type Derived,
  type DeriveOptions,
  type Deviation,
  type Outlier,
  type Sample,
  type ValueSpread,
} from './derive.ts'
export { exampleFaults } from './examples.ts'
export { deriveReference, featuresOf, readFeatures, type DeriveDevice } from './features.ts'
export { derivedState, type DerivedState, type StateAnswer, type StateFact } from './state.ts'
export {
  featureSchema,
  featuresFileSchema,
  referenceSchema,
  referencesFileSchema,
  type Feature,
  type Reference,
  type ReferenceValue,
} from './schema.ts'
