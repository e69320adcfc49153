import { Button } from '@mantine/core';
import { type KeyboardEvent, useRef, useState } from 'react';

import type { Schemas } from '../../../api/client';
import { countText, sizeText } from '../../../shared/sizes';
import type { Document, SatchelChanges } from '../../satchel';
import classes from './NameList.module.css';

type Part = Schemas['SheetPart'];
type Exceptions = NonNullable<Document['exceptions']>;

interface NameListProps {
  document: Document;
  /** Hidden and broken names of a workbook. */
  parts: Part[];
  changes: SatchelChanges;
}

/** Names that nobody sees, to look through: each says what it points at, and what uses it. */
export function NameList({ document, parts, changes }: NameListProps) {
  const exceptions: Exceptions = document.exceptions ?? {};
  const [before, setBefore] = useState<Exceptions[]>([]);
  const [anchor, setAnchor] = useState(0);
  const frame = useRef<HTMLUListElement>(null);
  const isOut = (part: Part) => exceptions[part.id]?.is_left_out === true;
  const unused = parts.filter(
    ({ stray_name }) => stray_name?.used_by.length === 0 && !stray_name.is_sound,
  );
  const chosen = parts.filter(isOut);

  const save = (next: Exceptions) => changes.except.mutate({ id: document.id, exceptions: next });
  const leaveOut = (those: Part[], isLeftOut: boolean) => {
    const ids = new Set(those.map((part) => part.id));
    const others = Object.entries(exceptions).filter(([id]) => !ids.has(id));
    const next: Exceptions = Object.fromEntries(others);
    if (isLeftOut) for (const id of ids) next[id] = { is_left_out: true };
    setBefore([...before, exceptions]);
    save(next);
  };
  const undo = () => {
    const last = before.at(-1);
    if (last === undefined) return;
    setBefore(before.slice(0, -1));
    save(last);
  };
  const focus = (index: number) =>
    frame.current?.querySelector<HTMLInputElement>(`input[data-row="${index}"]`)?.focus();
  const onKey = (event: KeyboardEvent, index: number) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    focus(index + step);
  };
  /** Shift selects all rows from the one that was clicked before. */
  const onClick = (index: number, isLeftOut: boolean, isRange: boolean) => {
    const [first, last] = isRange
      ? [Math.min(anchor, index), Math.max(anchor, index)]
      : [index, index];
    setAnchor(index);
    leaveOut(parts.slice(first, last + 1), isLeftOut);
  };

  return (
    <section className={classes.root} aria-label="Defined names to review">
      <header className={classes.head}>
        <h3>{countText(parts.length, 'hidden or broken name')} to look through</h3>
        <span className={classes.told}>
          Space chooses, arrows move, Shift takes a range. Nothing goes unless you choose it.
        </span>
      </header>
      <div className={classes.tools}>
        {unused.length > 0 && (
          <Button size="compact-sm" variant="default" onClick={() => leaveOut(unused, true)}>
            Choose the {unused.length.toLocaleString('en')} that nothing uses
          </Button>
        )}
        {chosen.length > 0 && (
          <Button size="compact-sm" variant="subtle" onClick={() => leaveOut(chosen, false)}>
            Keep all
          </Button>
        )}
        {before.length > 0 && (
          <Button size="compact-sm" variant="subtle" onClick={undo}>
            Undo
          </Button>
        )}
      </div>
      <ul ref={frame} className={classes.list}>
        {parts.map((part, index) => {
          if (part.stray_name === null) return null;
          return (
            <li key={part.id} className={classes.row}>
              <input
                type="checkbox"
                data-row={index}
                aria-label={`Remove the name ${part.name}`}
                checked={isOut(part)}
                onKeyDown={(event) => onKey(event, index)}
                onChange={(event) =>
                  onClick(
                    index,
                    event.currentTarget.checked,
                    (event.nativeEvent as MouseEvent).shiftKey,
                  )
                }
              />
              <span className={classes.name} title={part.name}>
                {part.name}
              </span>
              <code className={classes.target} title={part.stray_name.points_at}>
                {part.stray_name.points_at || '(nothing)'}
              </code>
              <span className={classes.use}>{usedBy(part.stray_name)}</span>
              <span className={classes.size}>{sizeText(part.bytes)}</span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function usedBy({ used_by, is_broken, is_sound }: NonNullable<Part['stray_name']>): string {
  const state = is_broken ? 'broken' : is_sound ? 'hidden, its target is sound' : 'hidden';
  return used_by.length === 0
    ? `${state}, nothing uses it`
    : `${state}, used by ${used_by.join(', ')}`;
}
