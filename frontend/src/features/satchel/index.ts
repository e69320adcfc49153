export { benchKeys } from './keys';
export { benchQueries } from './queries';
export { useReturnedCopies } from './useReturnedCopies';
export { type SatchelChanges, useSatchelChanges } from './useSatchelChanges';
export { useShareLinks } from './useShareLinks';
export type { Exceptions } from './useUndo';
export {
  CURRENT,
  type Document,
  formatsOf,
  helpfulRemovals,
  isFitting,
  isOpen,
  removedEverywhere,
  trialProgressOf,
  type Satchel,
  savingsOf,
  scaleOf,
  thenOf,
  totalsOf,
  warningsOf,
} from './satchel';
