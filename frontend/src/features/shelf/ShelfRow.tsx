import { ActionIcon, Button } from '@mantine/core';
import { IconCopy, IconTrash } from '@tabler/icons-react';
import { useState } from 'react';
import { Link } from 'react-router';

import type { Schemas } from '../../api/client';
import { Beam } from '../../shared/Beam';
import { ErrorNote } from '../../shared/ErrorNote';
import { changeText, countText, sizeText } from '../../shared/sizes';
import { useCopySatchel, useDeleteSatchel } from './queries';
import classes from './ShelfRow.module.css';

interface ShelfRowProps {
  satchel: Schemas['SatchelRow'];
  /** Bytes that the whole width stands for: the heaviest satchel. */
  scale: number;
}

export function ShelfRow({ satchel, scale }: ShelfRowProps) {
  const [isAsking, setIsAsking] = useState(false);
  const remove = useDeleteSatchel();
  const copy = useCopySatchel();
  const now = satchel.bytes_before ?? 0;
  const then = satchel.bytes_after ?? null;
  const count = satchel.document_count ?? 0;

  return (
    <li className={classes.root}>
      <div className={classes.line}>
        <Link to={`/satchels/${satchel.id}`} className={classes.name}>
          {satchel.name}
        </Link>
        <span className={classes.facts}>
          {countText(count, 'document')}
          {satchel.limit_bytes !== null && `, limit ${sizeText(satchel.limit_bytes)}`}
          {satchel.limit_bytes !== null && satchel.limit_carrier === 'message' && ' a message'}
        </span>
        <span className={classes.weight}>
          {then === null ? (
            <>{sizeText(now)}, no copies yet</>
          ) : (
            <>
              {sizeText(now)} → <strong>{sizeText(then)}</strong> ({changeText(now, then)}),{' '}
              {dayText(satchel.last_run_at)}
            </>
          )}
        </span>
        <ActionIcon
          variant="subtle"
          color="gray"
          aria-label={`Copy ${satchel.name}`}
          title="Another satchel with the same documents and choices"
          loading={copy.isPending}
          onClick={() => copy.mutate(satchel.id)}
        >
          <IconCopy size={17} />
        </ActionIcon>
        <ActionIcon
          variant="subtle"
          color="gray"
          aria-label={`Delete ${satchel.name}`}
          onClick={() => setIsAsking(true)}
        >
          <IconTrash size={17} />
        </ActionIcon>
      </div>
      <Beam
        now={now}
        then={then}
        scale={scale}
        label={then === null ? sizeText(now) : `${sizeText(now)}, copies ${sizeText(then)}`}
      />
      {copy.error && <ErrorNote>{copy.error.message}</ErrorNote>}
      {isAsking && (
        <div className={classes.asking} role="alert">
          <span>
            Delete this satchel with {countText(count, 'original')} and all copies? This cannot be
            undone.
          </span>
          <Button
            size="compact-sm"
            color="red.8"
            loading={remove.isPending}
            onClick={() => remove.mutate(satchel.id)}
          >
            Delete
          </Button>
          <Button size="compact-sm" variant="default" onClick={() => setIsAsking(false)}>
            Keep
          </Button>
        </div>
      )}
    </li>
  );
}

function dayText(moment: string | null | undefined): string {
  if (!moment) return '';
  return new Date(moment).toLocaleDateString('en-GB', { day: 'numeric', month: 'short' });
}
