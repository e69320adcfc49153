import { Box, Button, FileButton } from '@mantine/core';
import {
  IconArrowLeft,
  IconArrowRight,
  IconPerspective,
  IconRotateClockwise,
  IconScan,
  IconTrash,
} from '@tabler/icons-react';
import { useRef, useState } from 'react';

import { ErrorNote } from '../../shared/ErrorNote';
import { countText, sizeText } from '../../shared/sizes';
import { useReorder } from '../../shared/useReorder';
import { SheetCorners } from './SheetCorners';
import classes from './Tray.module.css';
import type { Corners } from './corners';
import { isComing, movedIds, onHand, remarkOf, turned } from './pages';
import type { IntakeChanges, IntakeData, Page, ScanRequest } from './queries';

interface TrayProps {
  intake: IntakeData;
  changes: IntakeChanges;
  /** The present scan settings. */
  wanted: ScanRequest;
}

/** The pages side by side as they arrive: turned, put in order, taken out, put back. */
export function Tray({ intake, changes, wanted }: TrayProps) {
  const pages = onHand(intake);
  const [chosenId, setChosenId] = useState<string | null>(null);
  const [sheetOf, setSheetOf] = useState<string | null>(null);
  const chosen = pages.find(({ id }) => id === chosenId) ?? null;
  const laid = pages.find(({ id }) => id === sheetOf) ?? null;
  const [undos, setUndos] = useState<(() => void)[]>([]);
  const list = useRef<HTMLOListElement>(null);

  const remember = (undo: () => void) => setUndos((before) => [...before, undo]);
  const undo = () => {
    undos.at(-1)?.();
    setUndos(undos.slice(0, -1));
  };
  const move = (id: string, to: number) => {
    const before = pages.map((page) => page.id);
    if (to < 0 || to >= before.length) return;
    remember(() => changes.order.mutate(before));
    changes.order.mutate(movedIds(intake, id, to));
  };
  const item = useReorder((from, to) => {
    const page = pages[from];
    if (page) move(page.id, to);
  });
  const turn = (page: Page) => {
    remember(() => changes.change.mutate([{ id: page.id, turn: page.turn }]));
    changes.change.mutate([{ id: page.id, turn: turned(page.turn) }]);
  };
  const takeOut = (those: Page[]) => {
    remember(() => changes.change.mutate(those.map(({ id }) => ({ id, is_out: false }))));
    changes.change.mutate(those.map(({ id }) => ({ id, is_out: true })));
  };
  const takeSheet = (page: Page, corners: Corners | null) => {
    remember(() => changes.change.mutate([{ id: page.id, corners: page.corners }]));
    changes.change.mutate([{ id: page.id, corners }]);
    setSheetOf(null);
  };
  const again = (page: Page) => {
    const { scan } = intake;
    if (scan) {
      changes.scan.mutate({
        ...wanted,
        scanner: wanted.scanner || scan.scanner,
        both_sides: false,
        again: page.id,
      });
    }
  };
  const onKey = (event: React.KeyboardEvent, page: Page, index: number) => {
    if (event.ctrlKey || event.metaKey) return;
    const to = { ArrowLeft: index - 1, ArrowRight: index + 1 }[event.key];
    if (to !== undefined && event.altKey) move(page.id, to);
    else if (to !== undefined) focusOn(list.current, to);
    else if (event.key === 'r') turn(page);
    else if (event.key === 'Delete') takeOut([page]);
    else if (event.key === 'z') undo();
    else return;
    event.preventDefault();
  };
  const blanks = pages.filter((page) => page.is_blank);

  return (
    <section className={classes.root} aria-label="Pages">
      <Told intake={intake} />
      {intake.scan?.state === 'failed' && <ErrorNote>{intake.scan.message}</ErrorNote>}
      <ol className={classes.pages} ref={list} aria-label="Pages in their order">
        {pages.map((page, index) => (
          <Box key={page.id} component="li" className={classes.page} {...item(index)}>
            <button
              type="button"
              className={classes.sheet}
              aria-pressed={chosen?.id === page.id}
              aria-label={`Page ${index + 1}${remarkOf(page) && `, ${remarkOf(page)}`}`}
              data-blank={page.is_blank || undefined}
              onClick={() => setChosenId(page.id)}
              onFocus={() => setChosenId(page.id)}
              onKeyDown={(event) => onKey(event, page, index)}
            >
              {page.is_blank === null ? (
                <span className={classes.waiting} />
              ) : (
                <img
                  src={smallOf(page)}
                  alt=""
                  draggable={false}
                  style={{ rotate: `${page.turn}deg` }}
                />
              )}
            </button>
            <span className={classes.caption}>
              <b>{index + 1}</b> {remarkOf(page) || sizeText(page.size_bytes)}
            </span>
          </Box>
        ))}
        {isComing(intake) && (
          <ComingPage share={intake.scan?.share ?? 0} number={pages.length + 1} />
        )}
      </ol>
      {pages.length > 0 && (
        <div className={classes.tools}>
          <ToolButton
            isOff={!chosen}
            icon={<IconRotateClockwise size={16} />}
            keys="R"
            onClick={() => chosen && turn(chosen)}
          >
            Turn
          </ToolButton>
          <ToolButton
            isOff={!chosen}
            icon={<IconArrowLeft size={16} />}
            onClick={() => chosen && move(chosen.id, pages.indexOf(chosen) - 1)}
          >
            Forward
          </ToolButton>
          <ToolButton
            isOff={!chosen}
            icon={<IconArrowRight size={16} />}
            onClick={() => chosen && move(chosen.id, pages.indexOf(chosen) + 1)}
          >
            Back
          </ToolButton>
          <ToolButton
            isOff={!chosen}
            icon={<IconTrash size={16} />}
            keys="Del"
            onClick={() => chosen && takeOut([chosen])}
          >
            Remove
          </ToolButton>
          <ToolButton
            isOff={!chosen || chosen.is_blank === null}
            icon={<IconPerspective size={16} />}
            onClick={() => chosen && setSheetOf(chosen.id)}
          >
            Sheet in a photo
          </ToolButton>
          {intake.scan && (
            <ToolButton
              isOff={!chosen || isComing(intake)}
              icon={<IconScan size={16} />}
              onClick={() => chosen && again(chosen)}
            >
              Scan again
            </ToolButton>
          )}
          {blanks.length > 0 && (
            <Button variant="default" size="compact-sm" onClick={() => takeOut(blanks)}>
              Remove blank pages: {countText(blanks.length, 'page')}
            </Button>
          )}
          <ToolButton isOff={undos.length === 0} keys="Z" onClick={undo}>
            Undo
          </ToolButton>
        </div>
      )}
      {laid && (
        <SheetCorners
          key={laid.id}
          page={laid}
          number={pages.indexOf(laid) + 1}
          onUse={(corners) => takeSheet(laid, corners)}
          onClose={() => setSheetOf(null)}
        />
      )}
      <FileButton
        multiple
        accept="image/*,.heic,.heif,.tif,.tiff"
        onChange={(files) => files.length > 0 && changes.add.mutate(files)}
      >
        {(button) => (
          <button type="button" {...button} className={classes.drop}>
            {changes.add.isPending
              ? 'Pictures are coming …'
              : 'Drop pictures here, or choose some: photos of receipts, single scans. They become pages, the right way up.'}
          </button>
        )}
      </FileButton>
    </section>
  );
}

function Told({ intake }: { intake: IntakeData }) {
  const pages = onHand(intake);
  const { scan } = intake;
  if (isComing(intake) && scan) {
    const share = Math.round(scan.share * 100);
    return (
      <p className={classes.told} role="status">
        <b>Page {pages.length + 1} is coming</b>
        {share > 0 && `, ${share} %`}
      </p>
    );
  }
  if (pages.length === 0) {
    return (
      <p className={classes.told}>
        Put paper in, choose how it lies above, and press <b>Scan</b>.
      </p>
    );
  }
  return (
    <p className={classes.told}>
      In order of arrival. Drag, or <kbd>Alt</kbd> with <kbd>←</kbd> <kbd>→</kbd>, to move a page.
    </p>
  );
}

function ComingPage({ share, number }: { share: number; number: number }) {
  return (
    <li className={classes.page}>
      <Box className={classes.coming} __vars={{ '--gs-share': `${Math.round(share * 100)}%` }} />
      <span className={classes.caption}>
        <b>{number}</b> coming
      </span>
    </li>
  );
}

interface ToolButtonProps {
  isOff: boolean;
  icon?: React.ReactNode;
  keys?: string;
  onClick: () => void;
  children: React.ReactNode;
}

function ToolButton({ isOff, icon, keys, onClick, children }: ToolButtonProps) {
  return (
    <Button
      variant="default"
      size="compact-sm"
      disabled={isOff}
      leftSection={icon}
      rightSection={keys && <kbd className={classes.keys}>{keys}</kbd>}
      onClick={onClick}
    >
      {children}
    </Button>
  );
}

/** Drawn anew where another part of the photo is the page. */
function smallOf({ id, corners }: Page) {
  const part = corners ? `?sheet=${corners.join(',')}` : '';
  return `/api/intake-pages/${id}/small${part}`;
}

function focusOn(list: HTMLOListElement | null, index: number) {
  const item = list?.children[index];
  item?.querySelector<HTMLButtonElement>('button')?.focus();
}
