import { ActionIcon, Box, Button, Checkbox, SegmentedControl, TextInput } from '@mantine/core';
import {
  IconArrowDown,
  IconArrowUp,
  IconArrowsSort,
  IconClock,
  IconFiles,
  IconRotateClockwise,
  IconX,
} from '@tabler/icons-react';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { ErrorNote } from '../../shared/ErrorNote';
import { countText, sizeText } from '../../shared/sizes';
import { useReorder } from '../../shared/useReorder';
import type { Document, Satchel, SatchelChanges } from '../satchel';
import classes from './GatherPanel.module.css';
import {
  AS_THEY_ARE,
  byName,
  byTime,
  inOrder,
  moved,
  type Pages,
  turned,
  turnsByPage,
} from './pages';

type PageSize = NonNullable<Schemas['GatherRequest']['page']>;

const PAGE_SIZES: { value: PageSize; label: string }[] = [
  { value: 'own', label: 'As large as each picture' },
  { value: 'a4', label: 'A4' },
  { value: 'letter', label: 'Letter' },
];
const FEWEST = 2;

interface GatherPanelProps {
  satchel: Satchel;
  changes: SatchelChanges;
}

/** Loose pictures of the satchel, put on the pages of one PDF; shown where there are some. */
export function GatherPanel({ satchel, changes }: GatherPanelProps) {
  const [isOpen, setIsOpen] = useState(false);
  const pictures = satchel.documents.filter(
    (document) => document.state === 'weighed' && document.first_picture !== '',
  );
  const pages = pictures.reduce((sum, { pages: own }) => sum + (own ?? 1), 0);
  if (pages < FEWEST) return null;
  return (
    <section className={classes.root} aria-label="Pictures on pages">
      {isOpen ? (
        <Arrangement
          satchel={satchel}
          pictures={pictures}
          changes={changes}
          onClose={() => setIsOpen(false)}
        />
      ) : (
        <div className={classes.offer}>
          <p>
            {countText(pages, 'picture')} are here by themselves. They can become the pages of one
            PDF.
          </p>
          <Button
            variant="default"
            size="compact-md"
            leftSection={<IconFiles size={16} />}
            onClick={() => setIsOpen(true)}
          >
            Arrange the pages
          </Button>
        </div>
      )}
    </section>
  );
}

interface ArrangementProps extends GatherPanelProps {
  pictures: Document[];
  onClose: () => void;
}

function Arrangement({ satchel, pictures, changes, onClose }: ArrangementProps) {
  const [pages, setPages] = useState<Pages>(AS_THEY_ARE);
  const [size, setSize] = useState<PageSize>('own');
  const [name, setName] = useState(satchel.name);
  const [findsSheets, setFindsSheets] = useState(false);
  const shown = inOrder(pictures, pages);
  const ids = shown.map(({ id }) => id);
  const item = useReorder((from, to) => setPages(moved(pages, ids, from, to)));
  const count = shown.reduce((sum, { pages: own }) => sum + (own ?? 1), 0);
  const bytes = shown.reduce((sum, { size_bytes }) => sum + size_bytes, 0);
  const { gather } = changes;
  const put = () =>
    gather.mutate(
      {
        documents: ids,
        name: name.trim(),
        page: size,
        turns: turnsByPage(pages, shown),
        finds_sheets: findsSheets,
      },
      { onSuccess: onClose },
    );
  return (
    <>
      <div className={classes.head}>
        <h2>Pictures on pages</h2>
        <span className={classes.told}>
          {countText(count, 'page')}, {sizeText(bytes)}. The pictures stay in the satchel.
        </span>
      </div>
      <ol className={classes.pages} aria-label="Pages in their order">
        {shown.map((picture, index) => (
          <PageRow
            key={picture.id}
            picture={picture}
            number={index + 1}
            count={shown.length}
            degrees={pages.turns[picture.id] ?? 0}
            item={item(index)}
            onMove={(to) => setPages(moved(pages, ids, index, to))}
            onTurn={() => setPages(turned(pages, picture.id))}
            onLeaveOut={() => setPages({ ...pages, leftOut: [...pages.leftOut, picture.id] })}
          />
        ))}
      </ol>
      <div className={classes.tools}>
        <Button
          variant="default"
          size="compact-sm"
          leftSection={<IconArrowsSort size={14} />}
          onClick={() => setPages(byName(pages, shown))}
        >
          By name
        </Button>
        {shown.some((picture) => picture.taken_at !== '') && (
          <Button
            variant="default"
            size="compact-sm"
            leftSection={<IconClock size={14} />}
            onClick={() => setPages(byTime(pages, shown))}
          >
            By time taken
          </Button>
        )}
        <Button
          variant="default"
          size="compact-sm"
          disabled={pages === AS_THEY_ARE}
          onClick={() => setPages(AS_THEY_ARE)}
        >
          As they came
        </Button>
      </div>
      <div className={classes.choices}>
        <div>
          <span className={classes.label} id="page-size">
            How large is a page?
          </span>
          <SegmentedControl
            aria-labelledby="page-size"
            size="sm"
            data={PAGE_SIZES}
            value={size}
            onChange={(value) => setSize(value)}
          />
        </div>
        <Checkbox
          label="Cut sheets of paper out of photos and straighten them"
          checked={findsSheets}
          onChange={(event) => setFindsSheets(event.currentTarget.checked)}
        />
        <TextInput
          label="What is the PDF called?"
          value={name}
          maxLength={200}
          onChange={(event) => setName(event.currentTarget.value)}
        />
      </div>
      {gather.error && <ErrorNote>{gather.error.message}</ErrorNote>}
      <div className={classes.ends}>
        <Button
          onClick={put}
          loading={gather.isPending}
          disabled={shown.length === 0 || name.trim() === ''}
        >
          Make a PDF of {countText(count, 'page')}
        </Button>
        <Button variant="default" onClick={onClose}>
          Cancel
        </Button>
      </div>
    </>
  );
}

interface PageRowProps {
  picture: Document;
  number: number;
  count: number;
  degrees: number;
  /** Handlers that let it be dragged. */
  item: ReturnType<ReturnType<typeof useReorder>>;
  /** Move to that index. */
  onMove: (to: number) => void;
  onTurn: () => void;
  onLeaveOut: () => void;
}

function PageRow({ picture, number, count, degrees, item, ...on }: PageRowProps) {
  const { id, name } = picture;
  return (
    <Box component="li" className={classes.page} {...item}>
      <span className={classes.number}>{number}</span>
      <span className={classes.frame}>
        <img
          src={`/api/documents/${id}/thumbnail?part=${encodeURIComponent(picture.first_picture)}`}
          alt=""
          draggable={false}
          style={{ rotate: `${degrees}deg` }}
        />
      </span>
      <span className={classes.name}>
        {name}
        {picture.pages !== null && picture.pages > 1 && `, ${countText(picture.pages, 'page')}`}
      </span>
      <span className={classes.buttons}>
        <PageButton
          label={`${name} one page up`}
          isOff={number === 1}
          onClick={() => on.onMove(number - 2)}
        >
          <IconArrowUp size={16} />
        </PageButton>
        <PageButton
          label={`${name} one page down`}
          isOff={number === count}
          onClick={() => on.onMove(number)}
        >
          <IconArrowDown size={16} />
        </PageButton>
        <PageButton label={`Turn ${name}`} onClick={on.onTurn}>
          <IconRotateClockwise size={16} />
        </PageButton>
        <PageButton label={`Remove ${name}`} onClick={on.onLeaveOut}>
          <IconX size={16} />
        </PageButton>
      </span>
    </Box>
  );
}

interface PageButtonProps {
  label: string;
  isOff?: boolean;
  onClick: () => void;
  children: React.ReactNode;
}

function PageButton({ label, isOff = false, onClick, children }: PageButtonProps) {
  return (
    <ActionIcon
      variant="subtle"
      color="gray"
      aria-label={label}
      // Not disabled, so that the focus stays on it.
      aria-disabled={isOff}
      data-off={isOff || undefined}
      onClick={() => {
        if (!isOff) onClick();
      }}
    >
      {children}
    </ActionIcon>
  );
}
