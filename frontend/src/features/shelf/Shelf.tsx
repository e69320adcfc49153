import { Button, FileButton, Loader, NativeSelect, TextInput } from '@mantine/core';
import { IconPlus } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useState } from 'react';
import { useNavigate } from 'react-router';

import { uploadStore } from '../../api/uploads';
import { Beam } from '../../shared/Beam';
import { DropCurtain } from '../../shared/DropCurtain';
import { ErrorNote } from '../../shared/ErrorNote';
import type { FoundFile } from '../../shared/files';
import { sizeText } from '../../shared/sizes';
import { useFileDrop } from '../../shared/useFileDrop';
import { arranged, limitOf, MANY, type Order, ORDERS } from './arrange';
import { nameFor } from './names';
import { shelfQueries, useCreateSatchel, useTrySample } from './queries';
import classes from './Shelf.module.css';
import { ShelfRow } from './ShelfRow';
import { Welcome } from './Welcome';

/** All satchels; whatever is dropped here goes into a new one. */
export function Shelf() {
  const satchels = useQuery(shelfQueries.all());
  const { mutate: createSatchel, error, isPending } = useCreateSatchel();
  const trial = useTrySample();
  const navigate = useNavigate();
  const [words, setWords] = useState('');
  const [order, setOrder] = useState<Order>('changed');

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
  const shown = rows.length < MANY ? rows : arranged(rows, words, order);
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
      {trial.error && <ErrorNote>{trial.error.message}</ErrorNote>}
      {satchels.isPending && <Loader role="status" aria-label="Fetching your satchels" />}
      {satchels.isError && <ErrorNote>{satchels.error.message}</ErrorNote>}
      {satchels.data && rows.length === 0 && (
        <Welcome
          chooseButton={addButton}
          isOpening={trial.isPending}
          onTry={() =>
            trial.mutate(undefined, {
              onSuccess: (satchel) => void navigate(`/satchels/${satchel.id}`),
            })
          }
        />
      )}
      {rows.length > 0 && (
        <>
          {rows.length >= MANY && (
            <div className={classes.tools}>
              <TextInput
                type="search"
                aria-label="Search the shelf"
                placeholder={`Search ${rows.length} satchels`}
                value={words}
                onChange={(event) => setWords(event.currentTarget.value)}
              />
              <NativeSelect
                aria-label="Order of the shelf"
                data={ORDERS.map(({ value, label }) => ({ value, label: `By ${label}` }))}
                value={order}
                onChange={(event) => setOrder(event.currentTarget.value as Order)}
              />
            </div>
          )}
          <ul className={classes.rows}>
            {shown.map((row) => (
              <ShelfRow key={row.id} satchel={row} scale={scale} limit={limitOf(row)} />
            ))}
          </ul>
          {shown.length === 0 && <p className={classes.hint}>No satchel is called that.</p>}
          <p className={classes.hint}>
            Drop files or folders anywhere on this page to start another satchel.
          </p>
          <Room />
        </>
      )}
      {isDropping && <DropCurtain>Let go to open a new satchel with these</DropCurtain>}
    </div>
  );
}

/** The used share of the account's quota, as one beam. */
function Room() {
  const { data } = useQuery(shelfQueries.quota());
  if (!data) return null;
  const told = `${sizeText(data.bytes_taken)} of ${sizeText(data.bytes_allowed)} taken, by originals and copies`;
  return (
    <div className={classes.room}>
      <span>
        {told}; {data.documents_taken} of {data.documents_allowed} documents
      </span>
      <Beam
        now={data.bytes_allowed}
        then={data.bytes_taken}
        scale={data.bytes_allowed}
        isOver={data.bytes_taken > 0.9 * data.bytes_allowed}
        label={told}
      />
    </div>
  );
}

function asFound(file: File): FoundFile {
  return { file, folder: '' };
}
