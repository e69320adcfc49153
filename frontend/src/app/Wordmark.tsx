import classes from './Wordmark.module.css';

/** A flap closed over paper, its brass clasp, and the name. */
export function Wordmark() {
  return (
    <span className={classes.root}>
      <svg width="24" height="24" viewBox="0 0 24 24" aria-hidden="true">
        <path className={classes.handle} d="M5.2 7.6 7 4.2h10l1.8 3.4" />
        <path
          className={classes.body}
          d="M2.6 9.4a2 2 0 0 1 2-2h14.8a2 2 0 0 1 2 2l-.7 9.2a2.2 2.2 0 0 1-2.2 2H5.5a2.2 2.2 0 0 1-2.2-2z"
        />
        <path
          className={classes.flap}
          d="M2.7 10.2 12 14.6l9.3-4.4v-.8a2 2 0 0 0-2-2H4.6a2 2 0 0 0-2 2z"
        />
        <path className={classes.clasp} d="M12 12.6v4.8" />
      </svg>
      <span className={classes.name}>Green Satchel</span>
    </span>
  );
}
