import { useState } from 'react';

import { LibraryButtons } from '../../shared/LibraryButtons';
import { sizeText } from '../../shared/sizes';
import { LimitForm } from './LimitForm';
import classes from '../../shared/Library.module.css';
import type { Limit, LimitChanges } from './queries';
import { pointsOf } from '../../shared/checklists';

interface LimitRowProps {
  limit: Limit;
  changes: LimitChanges;
  onCopy: () => void;
}

/** A limit in short, with what can be done to it. */
export function LimitRow({ limit, changes, onCopy }: LimitRowProps) {
  const [isEditing, setIsEditing] = useState(false);
  const points = pointsOf(limit.checklist);
  if (isEditing) {
    return (
      <li className={classes.row}>
        <LimitForm
          limit={limit}
          isBusy={changes.change.isPending}
          failure={changes.change.error?.message}
          onKeep={(draft) =>
            changes.change.mutate(
              { name: limit.name, ...draft },
              { onSuccess: () => setIsEditing(false) },
            )
          }
          onCancel={() => setIsEditing(false)}
        />
      </li>
    );
  }
  return (
    <li className={classes.row}>
      <div>
        <strong className={classes.name}>{limit.title}</strong>
        <span className={classes.text}>
          {sizeText(limit.size_bytes)}
          {limit.carrier === 'message'
            ? ` a message, which carries a file of ${sizeText(limit.file_bytes)}`
            : ' a file'}
        </span>
        {points.length > 0 && <span className={classes.text}>Requires {points.join('; ')}</span>}
      </div>
      <LibraryButtons
        title={limit.title}
        fileAddress={`/api/limits/${limit.name}/file`}
        isOwn={limit.is_own}
        changeWord="Change"
        onCopy={onCopy}
        onChange={() => setIsEditing(true)}
        onDelete={() => changes.remove.mutate(limit.name)}
      />
    </li>
  );
}
