import type { ReactNode } from 'react';

import classes from './EmptyState.module.css';

interface EmptyStateProps {
  title: string;
  children: ReactNode;
  /** The next step. */
  action?: ReactNode;
}

/** A place with nothing in it yet, and the way on. */
export function EmptyState({ title, children, action }: EmptyStateProps) {
  return (
    <section className={classes.root}>
      <h2 className={classes.title}>{title}</h2>
      <p className={classes.text}>{children}</p>
      {action}
    </section>
  );
}
