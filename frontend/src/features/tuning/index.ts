export { CLASS_NAMES, CLASS_TITLES, CLASSES } from './classes';
export { ClassTuning } from './ClassTuning';
export { FineTuning } from './FineTuning';
export { NumberField } from './NumberField';
