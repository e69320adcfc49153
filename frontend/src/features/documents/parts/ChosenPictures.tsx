import { Button } from '@mantine/core';
import { useRef, useState } from 'react';

import type { Schemas } from '../../../api/client';
import { ErrorNote } from '../../../shared/ErrorNote';
import { countText } from '../../../shared/sizes';
import { NumberField } from '../../tuning';
import classes from './PictureList.module.css';
import { type Document, type Exceptions, type SatchelChanges } from '../../satchel';

interface ChosenPicturesProps {
  document: Document;
  chosen: Schemas['SheetPart'][];
  changes: SatchelChanges;
  onDone: () => void;
}

type Exception = NonNullable<Exceptions>[string];

/** The treatment of the chosen pictures, apart from the rest of their class. */
export function ChosenPictures({ document, chosen, changes, onDone }: ChosenPicturesProps) {
  const [ppi, setPpi] = useState<number | null>(220);
  const [quality, setQuality] = useState<number | null>(85);
  const file = useRef<HTMLInputElement>(null);
  const exceptions = document.exceptions ?? {};
  const hasExceptions = chosen.some((part) => exceptions[part.id]);
  const set = (exception: Exception | null) => {
    const ids = new Set(chosen.map((part) => part.id));
    const others = Object.entries(exceptions).filter(([id]) => !ids.has(id));
    const own = exception ? [...ids].map((id): [string, Exception] => [id, exception]) : [];
    const next = Object.fromEntries([...others, ...own]);
    changes.except.mutate({ id: document.id, exceptions: next });
    onDone();
  };
  const own: Exception = {
    treatment: {
      finest_ppi: ppi,
      above_ppi: null,
      scale_percent: null,
      smallest_px: null,
      largest_px: null,
      coding: 'automatic',
      quality,
      floor: 0.6,
      colour: 'keep',
      bitonal_method: 'otsu',
      threshold: 128,
      filters: [],
      cuts_hidden: false,
      keeps_words: true,
      least_score: 0,
    },
  };
  return (
    <div className={classes.chosen} role="group" aria-label="Chosen pictures">
      <span>{countText(chosen.length, 'picture')}</span>
      <Button size="compact-sm" variant="default" onClick={() => set({ is_exempt: true })}>
        Keep unchanged
      </Button>
      <div className={classes.own}>
        <NumberField
          label="Resolution, ppi"
          value={ppi}
          least={20}
          most={2400}
          empty="all"
          onKeep={setPpi}
        />
        <NumberField
          label="Quality"
          value={quality}
          least={1}
          most={100}
          empty="exact"
          onKeep={setQuality}
        />
        <Button size="compact-sm" variant="default" onClick={() => set(own)}>
          Apply to them
        </Button>
      </div>
      {chosen.length === 1 && chosen[0] && (
        <>
          <Button size="compact-sm" variant="default" onClick={() => file.current?.click()}>
            Replace it
          </Button>
          <input
            ref={file}
            type="file"
            accept="image/*"
            hidden
            aria-label="Picture to show instead"
            onChange={(event) => {
              const brought = event.currentTarget.files?.[0];
              const part = chosen[0]?.id;
              if (brought && part)
                changes.bring.mutate(
                  { id: document.id, part, file: brought },
                  { onSuccess: onDone },
                );
              event.currentTarget.value = '';
            }}
          />
        </>
      )}
      {hasExceptions && (
        <Button size="compact-sm" variant="subtle" onClick={() => set(null)}>
          Back to the class settings
        </Button>
      )}
      {changes.bring.error && (
        <div className={classes.refusal}>
          <ErrorNote>{changes.bring.error.message}</ErrorNote>
        </div>
      )}
    </div>
  );
}
