export { ClassTuning } from './ClassTuning';
export { FineTuning } from './FineTuning';
export { NumberField } from './NumberField';
