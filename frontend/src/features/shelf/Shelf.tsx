import { Button, FileButton, Loader } from '@mantine/core';
import { IconPlus } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import { useCallback } from 'react';
import { useNavigate } from 'react-router';

import { uploadStore } from '../../api/uploads';
import { DropCurtain } from '../../shared/DropCurtain';
import { EmptyState } from '../../shared/EmptyState';
import { ErrorNote } from '../../shared/ErrorNote';
import type { FoundFile } from '../../shared/files';
import { useFileDrop } from '../../shared/useFileDrop';
import { nameFor } from './names';
import { shelfQueries, useCreateSatchel } from './queries';
import classes from './Shelf.module.css';
import { ShelfRow } from './ShelfRow';

/** All satchels; whatever is dropped here goes into a new one. */
export function Shelf() {
  const satchels = useQuery(shelfQueries.all());
  const { mutate: createSatchel, error, isPending } = useCreateSatchel();
  const navigate = useNavigate();

  const open = useCallback(
    (files: FoundFile[]) => {
      createSatchel(nameFor(files, new Date()), {
        onSuccess: (satchel) => {
          uploadStore.add(satchel.id, files);
          void navigate(`/satchels/${satchel.id}`);
        },
      });
    },
    [createSatchel, navigate],
  );
  const isDropping = useFileDrop(open);

  const rows = satchels.data ?? [];
  const scale = Math.max(1, ...rows.map((row) => row.bytes_before ?? 0));
  const addButton = (
    <FileButton multiple onChange={(files) => files.length > 0 && open(files.map(asFound))}>
      {(button) => (
        <Button {...button} loading={isPending}>
          Choose files
        </Button>
      )}
    </FileButton>
  );

  return (
    <div className={classes.root} data-dropping={isDropping || undefined}>
      <div className={classes.head}>
        <h1 className={classes.title}>Shelf</h1>
        {rows.length > 0 && (
          <div className={classes.actions}>
            <Button variant="default" leftSection={<IconPlus size={16} />} onClick={() => open([])}>
              Empty satchel
            </Button>
            {addButton}
          </div>
        )}
      </div>
      {error && <ErrorNote>{error.message}</ErrorNote>}
      {satchels.isPending && <Loader aria-label="Fetching your satchels" />}
      {satchels.isError && <ErrorNote>{satchels.error.message}</ErrorNote>}
      {satchels.data && rows.length === 0 && (
        <EmptyState title="Drop a heavy file anywhere here" action={addButton}>
          A satchel opens with it, says what in it is heavy, and makes lighter copies. The originals
          are never touched.
        </EmptyState>
      )}
      {rows.length > 0 && (
        <>
          <ul className={classes.rows}>
            {rows.map((row) => (
              <ShelfRow key={row.id} satchel={row} scale={scale} />
            ))}
          </ul>
          <p className={classes.hint}>
            Drop files or folders anywhere on this page to start another satchel.
          </p>
        </>
      )}
      {isDropping && <DropCurtain>Let go to open a new satchel with these</DropCurtain>}
    </div>
  );
}

function asFound(file: File): FoundFile {
  return { file, folder: '' };
}
