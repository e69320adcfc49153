import { Button } from '@mantine/core';
import { Link } from 'react-router';

import { EmptyState } from '../shared/EmptyState';
import classes from './Frame.module.css';

export function NotFound() {
  return (
    <div className={classes.page}>
      <EmptyState
        title="There is nothing at this address"
        action={
          <Button component={Link} to="/">
            Go to the shelf
          </Button>
        }
      >
        The satchel may have been deleted, or the address was mistyped.
      </EmptyState>
    </div>
  );
}
