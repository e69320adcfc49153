import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';

import { choicesQuery } from '../../../api/choices';
import type { Schemas } from '../../../api/client';
import { sizeText } from '../../../shared/sizes';
import {
  type Document,
  removedEverywhere,
  type Satchel,
  type SatchelChanges,
  savingsOf,
} from '../../satchel';
import classes from './Removals.module.css';

type Part = Schemas['SheetPart'];
type Kind = NonNullable<Part['removed_with']>;

interface RemovalsProps {
  document: Document;
  satchel: Satchel;
  parts: Part[];
  changes: SatchelChanges;
}

const LEAST_BYTES = 1000;

/** What the document does not need to look as it does and still keeps, the heaviest first. */
export function Removals({ document, satchel, parts, changes }: RemovalsProps) {
  const { data: choices } = useQuery(choicesQuery());
  const exceptions = document.exceptions ?? {};
  const kinds = kindsOf(parts, exceptions).filter(({ bytes }) => bytes >= LEAST_BYTES);
  if (!choices || kinds.length === 0) return null;
  const here = savingsOf(satchel);
  const setChosen = (kind: Kind, isRemoved: boolean) => {
    const own = parts.filter((part) => part.removed_with === kind);
    const ids = new Set(own.map(({ id }) => id));
    const others = Object.entries(exceptions).filter(([id]) => !ids.has(id));
    const first = own[0]?.id;
    const added = isRemoved && first ? { [first]: { is_left_out: true } } : {};
    changes.except.mutate({
      id: document.id,
      exceptions: { ...Object.fromEntries(others), ...added },
    });
  };
  return (
    <section className={classes.root} aria-label="What can be removed">
      <h3>What can be removed</h3>
      <ul>
        {kinds.map(({ kind, bytes, isChosen }) => {
          const extra = choices.extras.find((one) => one.kind === kind);
          if (!extra) return null;
          const isElsewhere =
            (here[`extra.${kind}`] ?? 0) > (document.savings[`extra.${kind}`] ?? 0);
          const name = extra.title.charAt(0).toLowerCase() + extra.title.slice(1);
          return (
            <li key={kind}>
              <span className={classes.what}>
                <strong>{extra.title}</strong>
                <small>Lost: {extra.loss}</small>
              </span>
              <span className={classes.worth}>−{sizeText(bytes)}</span>
              <span className={classes.buttons}>
                {isChosen ? (
                  <Button
                    size="compact-sm"
                    variant="subtle"
                    aria-label={`Keep ${name}`}
                    onClick={() => setChosen(kind, false)}
                  >
                    Keep
                  </Button>
                ) : (
                  <Button
                    size="compact-sm"
                    variant="default"
                    aria-label={`Remove ${name}`}
                    onClick={() => setChosen(kind, true)}
                  >
                    Remove
                  </Button>
                )}
                {!isChosen && isElsewhere && (
                  <Button
                    size="compact-sm"
                    variant="subtle"
                    aria-label={`Remove ${name} from all documents`}
                    onClick={() => changes.change.mutate(removedEverywhere(satchel, kind))}
                  >
                    From all
                  </Button>
                )}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

/** Kinds of extras that stay, or that go as this document alone was asked. */
function kindsOf(parts: Part[], exceptions: NonNullable<Document['exceptions']>) {
  const kinds = new Map<Kind, { kind: Kind; bytes: number; isChosen: boolean; isKept: boolean }>();
  for (const part of parts) {
    const kind = part.removed_with;
    // Names have a list of their own.
    if (kind === null || part.kind === 'name') continue;
    const one = kinds.get(kind) ?? { kind, bytes: 0, isChosen: false, isKept: false };
    one.bytes += part.bytes;
    one.isChosen ||= exceptions[part.id]?.is_left_out === true;
    one.isKept ||= part.decision !== 'drop';
    kinds.set(kind, one);
  }
  return [...kinds.values()]
    .filter(({ isChosen, isKept }) => isChosen || isKept)
    .sort((one, other) => other.bytes - one.bytes);
}
