import { Button, TextInput } from '@mantine/core';
import { IconArrowBackUp, IconDownload, IconPlayerStop } from '@tabler/icons-react';
import { useState } from 'react';
import { Link } from 'react-router';

import { Beam } from '../../shared/Beam';
import { changeText, sizeText } from '../../shared/sizes';
import { waitText } from '../../shared/waits';
import classes from './BenchHead.module.css';
import { type Satchel, type SatchelChanges, trialProgressOf, totalsOf } from '../satchel';

interface BenchHeadProps {
  satchel: Satchel;
  changes: SatchelChanges;
}

/** The name, the total beam, and the one button; stays in sight while the rest scrolls. */
export function BenchHead({ satchel, changes }: BenchHeadProps) {
  const totals = totalsOf(satchel);
  const tried = trialProgressOf(satchel);
  const limit = satchel.limit_file_bytes;
  const run = satchel.run;
  const isRunning = run?.is_busy === true;
  const copies = satchel.documents.filter((document) => document.copy?.state === 'done');
  const waiting = satchel.documents.filter(
    ({ state }) => state === 'waiting' || state === 'weighing',
  );

  return (
    <header className={classes.root}>
      <div className={classes.main}>
        <SatchelName
          key={satchel.name}
          name={satchel.name}
          onRename={(name) => changes.change.mutate({ name })}
        />
        <Beam
          size="total"
          now={totals.now}
          then={totals.counted > 0 ? totals.then : null}
          band={totals.isMeasured ? undefined : totals}
          scale={totals.now}
          label={`${sizeText(totals.now)} before, ${sizeText(totals.then)} after`}
        />
        <p className={classes.caption} aria-live="polite">
          {totals.counted === 0 ? (
            <span>{waiting.length > 0 ? 'Weighing …' : 'Nothing to weigh yet.'}</span>
          ) : (
            <>
              <span>
                <strong>{sizeText(totals.now)}</strong> → {totals.isMeasured ? '' : 'about '}
                <strong>{sizeText(totals.then)}</strong> ({changeText(totals.now, totals.then)})
                {!totals.isMeasured && sizeText(totals.low) !== sizeText(totals.high) && (
                  <span className={classes.band}>
                    {' '}
                    between {sizeText(totals.low)} and {sizeText(totals.high)}
                  </span>
                )}
              </span>
              {tried < 1 && totals.counted > 0 && !totals.isMeasured && (
                <span className={classes.band}>trying pictures, {Math.round(tried * 100)} %</span>
              )}
              {isRunning && <span className={classes.band}>{runText(satchel)}</span>}
              {limit !== null && (
                <span>
                  {totals.fitting} of {totals.counted} {totals.fitting === 1 ? 'fits' : 'fit'}
                  {totals.open > 0 && `, ${totals.open} not known yet`}
                </span>
              )}
            </>
          )}
        </p>
      </div>
      <div className={classes.buttons}>
        <Button component="a" href="#choices" variant="default" className={classes.toChoices}>
          Limit and preset
        </Button>
        <Button
          variant="subtle"
          color="gray"
          leftSection={<IconArrowBackUp size={17} />}
          disabled={!changes.canUndo}
          onClick={changes.undo}
        >
          Undo
        </Button>
        {run && !isRunning && (
          <Button component={Link} variant="default" to={`/runs/${run.id}/slip`}>
            Slip
          </Button>
        )}
        {copies.length > 0 && !isRunning && run && (
          <Button
            component="a"
            variant="default"
            leftSection={<IconDownload size={17} />}
            href={`/api/runs/${run.id}/bundle`}
          >
            All copies, zip
          </Button>
        )}
        {isRunning ? (
          <Button
            size="md"
            variant="default"
            leftSection={<IconPlayerStop size={17} />}
            loading={changes.cancel.isPending}
            onClick={() => changes.cancel.mutate(run.id)}
          >
            Cancel the run
          </Button>
        ) : (
          <Button
            size="md"
            disabled={totals.counted === 0}
            loading={changes.start.isPending}
            onClick={() => changes.start.mutate({ may_end_signature: false })}
          >
            {copies.length > 0 ? 'Make copies again' : 'Make lighter copies'}
          </Button>
        )}
      </div>
    </header>
  );
}

/** The number of finished copies, and the time left. */
function runText({ documents, run }: Satchel): string {
  const states = documents.map(({ copy }) => copy?.state);
  const open = states.filter((state) => state === 'waiting' || state === 'working').length;
  const made = states.filter(Boolean).length - open;
  const left = run?.seconds_left == null ? '' : `, ${waitText(run.seconds_left)}`;
  return `${made} of ${made + open} copies made${left}`;
}

interface SatchelNameProps {
  name: string;
  onRename: (name: string) => void;
}

/** The name; a click makes it a field. */
function SatchelName({ name, onRename }: SatchelNameProps) {
  const [draft, setDraft] = useState<string | null>(null);
  if (draft === null) {
    return (
      <h1 className={classes.title}>
        <button
          type="button"
          className={classes.name}
          title="Rename this satchel"
          onClick={() => setDraft(name)}
        >
          {name}
        </button>
      </h1>
    );
  }
  const keep = () => {
    const wanted = draft.trim();
    if (wanted && wanted !== name) onRename(wanted);
    setDraft(null);
  };
  return (
    <TextInput
      className={classes.field}
      aria-label="Name of the satchel"
      value={draft}
      maxLength={120}
      data-autofocus
      ref={(field) => field?.focus()}
      onChange={(event) => setDraft(event.currentTarget.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === 'Enter') keep();
        if (event.key === 'Escape') setDraft(null);
      }}
    />
  );
}
