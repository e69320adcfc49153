import { Button, Loader } from '@mantine/core';
import { IconPrinter } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';

import { ErrorNote } from '../../shared/ErrorNote';
import classes from './Guide.module.css';
import { type Explanation, guideQuery } from './queries';

const STEPS = [
  [
    'Add files',
    'Drop files or folders anywhere on the shelf. A satchel opens with them; the originals are kept byte for byte and never written to.',
  ],
  ['Weigh', 'Open a document to see what in it is heavy: every picture, font and leftover.'],
  [
    'Choose',
    'Say where it is going, and how gently. The brass line is the limit: a bar that passes it does not fit yet.',
  ],
  ['Make', 'One button makes all copies. Each is proved against its original before you get it.'],
  [
    'Look',
    'Where a verdict says check, the loupe opens at the place. Gentler takes a picture back.',
  ],
  [
    'Share link',
    'Download the copies, put them into messages, or give out a link. The slip says what was done.',
  ],
];

/** The whole way and every choice on two pages, to read here or to print. */
export function Guide() {
  const guide = useQuery(guideQuery());
  if (guide.isError) return <ErrorNote>{guide.error.message}</ErrorNote>;
  if (!guide.data)
    return <Loader role="status" className={classes.wait} aria-label="Opening the guide" />;
  return (
    <article className={classes.root}>
      <header className={classes.head}>
        <h1 className={classes.title}>Guide</h1>
        <Button
          className={classes.print}
          variant="default"
          leftSection={<IconPrinter size={16} />}
          onClick={() => window.print()}
        >
          Print it, two pages
        </Button>
      </header>
      <ol className={classes.steps}>
        {STEPS.map(([word, text]) => (
          <li key={word}>
            <b>{word}.</b> {text}
          </li>
        ))}
      </ol>
      {guide.data.map(({ name, title, entries }) => (
        <section key={name} className={classes.chapter} data-chapter={name}>
          <h2 className={classes.name}>{title}</h2>
          <dl className={classes.entries}>
            {entries.map((entry) => (
              <Entry key={entry.name} entry={entry} />
            ))}
          </dl>
        </section>
      ))}
    </article>
  );
}

function Entry({ entry }: { entry: Explanation }) {
  return (
    <div className={classes.entry}>
      <dt>{entry.title}</dt>
      <dd>
        {entry.does} <i>Lost:</i> {entry.loses || 'nothing.'} <i>When:</i> {entry.use}
      </dd>
    </div>
  );
}
