import { Button, PasswordInput } from '@mantine/core';
import { type SyntheticEvent, useState } from 'react';

import { ErrorNote } from '../../../shared/ErrorNote';
import classes from './FailedDocument.module.css';
import { type Document, type SatchelChanges } from '../../satchel';

interface FailedDocumentProps {
  document: Document;
  changes: SatchelChanges;
}

/** Why a document could not be weighed; a locked one asks for its password here. */
export function FailedDocument({ document, changes }: FailedDocumentProps) {
  const [password, setPassword] = useState('');
  const unlock = (event: SyntheticEvent) => {
    event.preventDefault();
    changes.unlock.mutate({ id: document.id, password });
  };
  return (
    <div className={classes.root}>
      <ErrorNote>{document.error?.message}</ErrorNote>
      {document.error?.code === 'password_needed' && (
        <form className={classes.form} onSubmit={unlock}>
          <PasswordInput
            className={classes.field}
            aria-label={`Password of ${document.name}`}
            placeholder="Its password"
            value={password}
            onChange={(event) => setPassword(event.currentTarget.value)}
          />
          <Button type="submit" disabled={!password} loading={changes.unlock.isPending}>
            Unlock
          </Button>
        </form>
      )}
      {document.error?.code !== 'password_needed' && (
        <p className={classes.again}>
          Other documents are not affected.{' '}
          <Button
            variant="default"
            size="compact-sm"
            loading={changes.again.isPending}
            onClick={() => changes.again.mutate(document.id)}
          >
            Try again
          </Button>
        </p>
      )}
    </div>
  );
}
