export { CLASS_NAMES, CLASS_TITLES, CLASSES, BITONAL_METHODS } from './classes';
export { ClassTuning } from './ClassTuning';
export { FineTuning } from './FineTuning';
export { NumberField } from './NumberField';
