import { ActionIcon, Box, FileButton, Button, Progress } from '@mantine/core';
import { IconAlertTriangle, IconArrowBackUp, IconX } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import { type DragEvent, useState } from 'react';

import type { Schemas } from '../../../api/client';
import { ErrorNote } from '../../../shared/ErrorNote';
import { sizeText } from '../../../shared/sizes';
import { type Document, benchQueries, useReturnedCopies } from '../../satchel';
import { markOfVerdict } from './VerdictMark';
import classes from './ReturnedCopies.module.css';

type Returned = Schemas['ReturnedCopy'];

/** Copies that came back from elsewhere, each proved against the document. */
export function ReturnedCopies({ document }: { document: Document }) {
  const returned = useQuery(benchQueries.returned(document.id));
  const { upload, remove } = useReturnedCopies(document.id);
  const [isOver, setIsOver] = useState(false);
  const bring = (file: File | null | undefined) => {
    if (file) upload.mutate(file);
  };
  const hold = (event: DragEvent) => {
    if (!event.dataTransfer.types.includes('Files')) return;
    event.preventDefault();
    // Else the bench takes it in as one more document.
    event.stopPropagation();
  };
  return (
    <Box
      component="section"
      className={classes.root}
      mod={{ over: isOver }}
      aria-label={`Copies of ${document.name} that came back`}
      onDragOver={(event) => {
        hold(event);
        setIsOver(true);
      }}
      onDragLeave={() => setIsOver(false)}
      onDrop={(event) => {
        hold(event);
        setIsOver(false);
        bring(event.dataTransfer.files[0]);
      }}
    >
      <div className={classes.ask}>
        <p>
          A copy came back, or was made elsewhere? Drop it here to have it proved against this
          document. It is not added to the satchel.
        </p>
        <FileButton onChange={bring}>
          {(props) => (
            <Button
              {...props}
              variant="default"
              size="compact-md"
              leftSection={<IconArrowBackUp size={16} />}
              loading={upload.isPending}
            >
              Choose a copy to prove
            </Button>
          )}
        </FileButton>
      </div>
      {remove.error && <ErrorNote>{remove.error.message}</ErrorNote>}
      {upload.error && <ErrorNote>{upload.error.message}</ErrorNote>}
      {returned.data && returned.data.length > 0 && (
        <ul className={classes.list}>
          {returned.data.map((one) => (
            <ReturnedRow key={one.id} returned={one} onRemove={() => remove.mutate(one.id)} />
          ))}
        </ul>
      )}
    </Box>
  );
}

interface ReturnedRowProps {
  returned: Returned;
  onRemove: () => void;
}

function ReturnedRow({ returned, onRemove }: ReturnedRowProps) {
  const isDone = returned.state === 'done';
  const isWaiting = returned.state === 'waiting' || returned.state === 'working';
  const mark = isDone
    ? markOfVerdict(returned)
    : { icon: <IconAlertTriangle size={16} />, word: 'Not proved', tone: 'rust' };
  return (
    <li className={classes.row}>
      <span className={classes.name}>
        {returned.name} <span className={classes.size}>{sizeText(returned.size_bytes)}</span>
      </span>
      {isWaiting ? (
        <Progress
          className={classes.progress}
          value={returned.progress * 100}
          aria-label={`Proving ${returned.name}`}
        />
      ) : (
        <Box className={classes.verdict} mod={{ tone: mark.tone }}>
          {mark.icon}
          {mark.word}
        </Box>
      )}
      {!isWaiting && (
        <span className={classes.reasons}>
          {(isDone ? returned.reasons : [returned.error_message]).slice(0, 4).join('; ')}
        </span>
      )}
      <ActionIcon
        variant="subtle"
        color="gray"
        size="sm"
        className={classes.away}
        aria-label={`Delete ${returned.name}`}
        title="Delete this copy"
        onClick={onRemove}
      >
        <IconX size={15} />
      </ActionIcon>
    </li>
  );
}
