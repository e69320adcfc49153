import { ActionIcon, Box, Button } from '@mantine/core';
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
  /** The limit of all documents together; null without one. */
  limit: number | null;
}

export function ShelfRow({ satchel, scale, limit }: ShelfRowProps) {
  const [isAsking, setIsAsking] = useState(false);
  const remove = useDeleteSatchel();
  const copy = useCopySatchel();
  const now = satchel.bytes_before ?? 0;
  const then = satchel.bytes_after ?? null;
  const count = satchel.document_count ?? 0;
  // What lies further right than the longest beam is drawn nowhere.
  const limitAt = limit !== null && limit < scale ? limit / scale : null;

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
      <Box
        className={classes.beam}
        mod={{ limited: limitAt !== null }}
        __vars={limitAt === null ? {} : { '--limit-at': `${limitAt * 100}%` }}
      >
        <Beam
          now={now}
          then={then}
          scale={scale}
          isOver={limit !== null && then !== null && then > limit}
          label={then === null ? sizeText(now) : `${sizeText(now)}, copies ${sizeText(then)}`}
        />
      </Box>
      {satchel.last_run_id && (
        <p className={classes.slip}>
          <Link to={`/runs/${satchel.last_run_id}/slip`}>Last slip</Link>
          {verdictsOf(satchel)}
        </p>
      )}
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
            Save
          </Button>
        </div>
      )}
    </li>
  );
}

/** ": 3 same, 1 close" */
function verdictsOf(satchel: Schemas['SatchelRow']): string {
  const told = [
    [satchel.copies_same, 'same'],
    [satchel.copies_close, 'close'],
    [satchel.copies_check, 'to check'],
  ].flatMap(([count, word]) => (count ? [`${count} ${word}`] : []));
  return told.length > 0 ? `: ${told.join(', ')}` : ': no copies';
}

function dayText(moment: string | null | undefined): string {
  if (!moment) return '';
  return new Date(moment).toLocaleDateString('en-GB', { day: 'numeric', month: 'short' });
}
