export {
  benchQueries,
  type Exceptions,
  type SatchelChanges,
  useBringBack,
  useThrowAway,
  useSatchelChanges,
} from './queries';
export {
  CURRENT,
  type Document,
  formatsOf,
  isFitting,
  isOpen,
  trialProgressOf,
  type Satchel,
  savingsOf,
  scaleOf,
  thenOf,
  totalsOf,
  warningsOf,
} from './satchel';
