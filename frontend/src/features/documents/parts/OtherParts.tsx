import { Checkbox } from '@mantine/core';

import type { Schemas } from '../../../api/client';
import { sizeText } from '../../../shared/sizes';
import type { Document, SatchelChanges } from '../../satchel';
import classes from './WeightSheet.module.css';

type Part = Schemas['SheetPart'];

interface OtherPartsProps {
  document: Document;
  parts: Part[];
  changes: SatchelChanges;
}

/** Fonts that readers do without can be left out one by one. */
export function OtherParts({ document, parts, changes }: OtherPartsProps) {
  const exceptions: NonNullable<Document['exceptions']> = document.exceptions ?? {};
  const leaveOut = (id: string, isLeftOut: boolean) => {
    const others = Object.entries(exceptions).filter(([other]) => other !== id);
    const next = Object.fromEntries(others);
    if (isLeftOut) next[id] = { is_left_out: true };
    changes.except.mutate({ id: document.id, exceptions: next });
  };
  return (
    <ul className={classes.others}>
      {parts.map((part) => (
        <li key={part.id}>
          <span className={classes.otherName}>{part.name}</span>
          <span className={classes.otherReason}>{part.reason}</span>
          {part.can_be_spared && (
            <Checkbox
              size="xs"
              className={classes.spare}
              label="Leave out"
              aria-label={`Remove the font ${part.name}, ${sizeText(part.bytes)}`}
              checked={exceptions[part.id]?.is_left_out === true}
              onChange={(event) => leaveOut(part.id, event.currentTarget.checked)}
            />
          )}
          <span className={classes.otherSize}>
            {sizeText(part.bytes)}
            {part.bytes_then < part.bytes && ` → ${sizeText(part.bytes_then)}`}
          </span>
        </li>
      ))}
    </ul>
  );
}
