import type { ReactNode } from 'react';

import classes from './ErrorNote.module.css';

interface ErrorNoteProps {
  children: ReactNode;
  action?: ReactNode;
}

/** An error and the next step; read out as soon as it appears. */
export function ErrorNote({ children, action }: ErrorNoteProps) {
  return (
    <div className={classes.root} role="alert">
      <span>{children}</span>
      {action}
    </div>
  );
}
