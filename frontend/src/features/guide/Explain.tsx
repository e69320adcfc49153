import { IconHelpCircle } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import classes from './Explain.module.css';
import { type ChapterName, guideQuery } from './queries';

interface ExplainProps {
  chapter: ChapterName;
  name: string;
  /** The explained item, for screen readers. */
  title: string;
}

/** The effect of an item, its cost and its use, on demand. */
export function Explain({ chapter, name, title }: ExplainProps) {
  const [isOpen, setIsOpen] = useState(false);
  const guide = useQuery({ ...guideQuery(), enabled: isOpen });
  const told = guide.data
    ?.find((one) => one.name === chapter)
    ?.entries.find((entry) => entry.name === name);
  return (
    <details className={classes.root} onToggle={(event) => setIsOpen(event.currentTarget.open)}>
      <summary className={classes.sign} aria-label={`What ${title} means`} title="What it means">
        <IconHelpCircle size={17} aria-hidden />
      </summary>
      <div className={classes.text}>
        {guide.isError && <p>{guide.error.message}</p>}
        {guide.isPending && isOpen && <p>Fetching it ...</p>}
        {told && (
          <>
            <p>{told.does}</p>
            <p>
              <b>Lost:</b> {told.loses || 'nothing.'}
            </p>
            <p>
              <b>When:</b> {told.use}
            </p>
          </>
        )}
      </div>
    </details>
  );
}
