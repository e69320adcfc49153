import { Loader } from '@mantine/core';

import classes from './Frame.module.css';

/** While the code of a screen is on its way. */
export function Opening() {
  return <Loader role="status" className={classes.wait} aria-label="Opening" />;
}
