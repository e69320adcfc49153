export { CLASS_NAMES, CLASS_TITLES, CLASSES, TWO_TONES } from './classes';
export { ClassTuning } from './ClassTuning';
export { FineTuning } from './FineTuning';
export { NumberField } from './NumberField';
