import { Box, Button, NativeSelect } from '@mantine/core';
import { useElementSize } from '@mantine/hooks';
import { useQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useRef, useState } from 'react';
import { Link } from 'react-router';

import { choicesQuery } from '../../../api/choices';
import type { Schemas } from '../../../api/client';
import { countText } from '../../../shared/sizes';
import { ChosenPictures } from './ChosenPictures';
import { PictureCard } from './PictureCard';
import classes from './PictureList.module.css';
import { type Document, type SatchelChanges } from '../../satchel';

interface PictureListProps {
  satchelId: string;
  document: Document;
  /** Largest file first. */
  pictures: Schemas['SheetPart'][];
  changes: SatchelChanges;
}

const FEW = 40;
const CARD_WIDTH_PX = 162;
const ROW_HEIGHT_PX = 281;

/** The pictures of a document, to look through and to treat otherwise, several at once. */
export function PictureList({ satchelId, document, pictures, changes }: PictureListProps) {
  const [only, setOnly] = useState('');
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const shown = only ? pictures.filter((part) => part.picture?.picture_class === only) : pictures;
  const { data: choices } = useQuery(choicesQuery());
  const counts = (choices?.picture_classes ?? [])
    .map((one) => ({
      ...one,
      count: pictures.filter((part) => part.picture?.picture_class === one.value).length,
    }))
    .filter(({ count }) => count > 0);
  const choose = (id: string, isChosen: boolean) => {
    const next = new Set(chosen);
    if (isChosen) next.add(id);
    else next.delete(id);
    setChosen(next);
  };

  const card = (part: Schemas['SheetPart']) => (
    <PictureCard
      key={part.id}
      satchelId={satchelId}
      documentId={document.id}
      part={part}
      isChosen={chosen.has(part.id)}
      onChoose={(isChosen) => choose(part.id, isChosen)}
    />
  );

  return (
    <div className={classes.root}>
      {pictures.length > 1 && (
        <div className={classes.tools}>
          <Button
            component={Link}
            to={`/satchels/${satchelId}/strip/${document.id}`}
            size="compact-sm"
            variant="default"
          >
            Test strip
          </Button>
          <NativeSelect
            size="xs"
            aria-label="Which pictures to show"
            value={only}
            onChange={(event) => setOnly(event.currentTarget.value)}
            data={[
              { value: '', label: `All ${countText(pictures.length, 'picture')}` },
              ...counts.map(({ value, title, count }) => ({
                value,
                label: `${title}, ${count}`,
              })),
            ]}
          />
          {chosen.size === 0 ? (
            <Button
              size="compact-sm"
              variant="subtle"
              onClick={() => setChosen(new Set(shown.map((part) => part.id)))}
            >
              Choose {shown.length === pictures.length ? 'all' : 'these'}
            </Button>
          ) : (
            <Button size="compact-sm" variant="subtle" onClick={() => setChosen(new Set())}>
              Clear selection
            </Button>
          )}
        </div>
      )}
      {chosen.size > 0 && (
        <ChosenPictures
          document={document}
          chosen={pictures.filter((part) => chosen.has(part.id))}
          changes={changes}
          onDone={() => setChosen(new Set())}
        />
      )}
      {shown.length > FEW ? (
        <ManyPictures pictures={shown} draw={card} />
      ) : (
        <div className={classes.few}>{shown.map(card)}</div>
      )}
    </div>
  );
}

interface ManyPicturesProps {
  pictures: Schemas['SheetPart'][];
  draw: (part: Schemas['SheetPart']) => ReactNode;
}

/** Only rows in sight are drawn, so that thousands scroll smoothly. */
function ManyPictures({ pictures, draw }: ManyPicturesProps) {
  const { ref: sizer, width } = useElementSize();
  const scroller = useRef<HTMLDivElement>(null);
  const columns = Math.max(2, Math.floor((width || 640) / CARD_WIDTH_PX));
  // Its functions change with every scroll, so nothing here is memoized.
  // eslint-disable-next-line react-hooks/incompatible-library
  const rows = useVirtualizer({
    count: Math.ceil(pictures.length / columns),
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT_PX,
    overscan: 2,
  });
  return (
    <div ref={scroller} className={classes.scroller} role="group" aria-label="Pictures">
      <Box
        ref={sizer}
        className={classes.all}
        __vars={{ '--height': `${rows.getTotalSize()}px`, '--columns': String(columns) }}
      >
        {rows.getVirtualItems().map((row) => (
          <Box
            key={row.key}
            ref={rows.measureElement}
            data-index={row.index}
            className={classes.cards}
            __vars={{ '--start': `${row.start}px` }}
          >
            {pictures.slice(row.index * columns, (row.index + 1) * columns).map(draw)}
          </Box>
        ))}
      </Box>
    </div>
  );
}
