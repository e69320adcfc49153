import type { ReactNode } from 'react';

import classes from './DropCurtain.module.css';

/** Lies over the whole window while files hang above it. */
export function DropCurtain({ children }: { children: ReactNode }) {
  return <div className={classes.root}>{children}</div>;
}
