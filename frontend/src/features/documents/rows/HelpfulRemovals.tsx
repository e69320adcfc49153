import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';

import { choicesQuery } from '../../../api/choices';
import { sizeText } from '../../../shared/sizes';
import {
  type Document,
  helpfulRemovals,
  removedEverywhere,
  type Satchel,
  type SatchelChanges,
} from '../../satchel';
import classes from './DocumentRow.module.css';

interface HelpfulRemovalsProps {
  document: Document;
  satchel: Satchel;
  /** Bytes above the limit. */
  missing: number;
  changes: SatchelChanges;
}

/** The removals that would bring a document nearest to its limit, each with its bytes. */
export function HelpfulRemovals({ document, satchel, missing, changes }: HelpfulRemovalsProps) {
  const { data: choices } = useQuery(choicesQuery());
  const found = helpfulRemovals(document, satchel, missing);
  if (!choices || found.length === 0) return null;
  return (
    <p className={classes.helpful}>
      <span>Would help:</span>
      {found.map(({ kind, bytes }) => {
        const title = choices.extras.find((one) => one.kind === kind)?.title ?? kind;
        return (
          <Button
            key={kind}
            size="compact-sm"
            variant="default"
            onClick={() => changes.change.mutate(removedEverywhere(satchel, kind))}
          >
            Remove {title.charAt(0).toLowerCase() + title.slice(1)}: {sizeText(bytes)}
          </Button>
        );
      })}
    </p>
  );
}
