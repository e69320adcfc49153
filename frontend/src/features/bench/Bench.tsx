import { Button, Loader } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useRef } from 'react';
import { useParams } from 'react-router';

import { choicesQuery } from '../../api/choices';
import { uploadStore, useUploads } from '../../api/uploads';
import { DropCurtain } from '../../shared/DropCurtain';
import { EmptyState } from '../../shared/EmptyState';
import { ErrorNote } from '../../shared/ErrorNote';
import { filesChosen, type FoundFile } from '../../shared/files';
import { useFileDrop } from '../../shared/useFileDrop';
import classes from './Bench.module.css';
import { BenchHead } from './BenchHead';
import { ChoicePanel } from '../choices';
import { DocumentList } from '../documents';
import { GatherPanel } from '../gathering';
import { benchQueries, useSatchelChanges } from '../satchel';

/** One satchel: its documents on the left, what is to become of them on the right. */
export function Bench() {
  const { satchelId = '' } = useParams();
  const uploads = useUploads(satchelId);
  const satchel = useQuery(benchQueries.satchel(satchelId, uploads.length > 0));
  const choices = useQuery(choicesQuery());
  const changes = useSatchelChanges(satchelId);

  const add = useCallback((files: FoundFile[]) => uploadStore.add(satchelId, files), [satchelId]);
  const isDropping = useFileDrop(add);

  const failure = satchel.error ?? choices.error;
  if (failure) {
    return (
      <div className={classes.alone}>
        <ErrorNote
          action={
            <Button size="compact-sm" onClick={() => void satchel.refetch()}>
              Try again
            </Button>
          }
        >
          {failure.message}
        </ErrorNote>
      </div>
    );
  }
  if (!satchel.data || !choices.data) {
    return <Loader role="status" className={classes.wait} aria-label="Opening the satchel" />;
  }

  const isEmpty = satchel.data.documents.length === 0 && uploads.length === 0;
  const refusal =
    changes.start.error ?? changes.change.error ?? changes.takeOut.error ?? changes.cancel.error;
  return (
    <div className={classes.root}>
      <BenchHead satchel={satchel.data} changes={changes} />
      {refusal && (
        <div className={classes.refusal}>
          <ErrorNote>{refusal.message}</ErrorNote>
        </div>
      )}
      <div className={classes.halves}>
        <div className={classes.documents}>
          {isEmpty ? (
            <EmptyState title="Drop files or folders here" action={<AddButtons onFiles={add} />}>
              They are weighed at once, so that you see what in them is heavy.
            </EmptyState>
          ) : (
            <>
              <GatherPanel satchel={satchel.data} changes={changes} />
              <DocumentList satchel={satchel.data} uploads={uploads} changes={changes} />
              <AddButtons onFiles={add} />
            </>
          )}
        </div>
        <ChoicePanel satchel={satchel.data} choices={choices.data} changes={changes} />
      </div>
      {isDropping && <DropCurtain>Let go to add these to the satchel</DropCurtain>}
    </div>
  );
}

interface AddButtonsProps {
  onFiles: (files: FoundFile[]) => void;
}

function AddButtons({ onFiles }: AddButtonsProps) {
  const files = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const take = (field: HTMLInputElement) => {
    if (field.files && field.files.length > 0) onFiles(filesChosen(field.files));
    field.value = '';
  };
  return (
    <div className={classes.adding}>
      <Button variant="default" size="sm" onClick={() => files.current?.click()}>
        Add files
      </Button>
      <Button variant="default" size="sm" onClick={() => folder.current?.click()}>
        Add a folder
      </Button>
      <span className={classes.hint}>or drop them anywhere</span>
      <input
        ref={files}
        type="file"
        multiple
        hidden
        aria-label="Files to add"
        onChange={(event) => take(event.currentTarget)}
      />
      <input
        ref={folder}
        type="file"
        multiple
        hidden
        aria-label="Folder to add"
        {...{ webkitdirectory: '' }}
        onChange={(event) => take(event.currentTarget)}
      />
    </div>
  );
}
