import { Button, Loader } from '@mantine/core';
import { IconDownload, IconPrinter } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import { Link, useParams } from 'react-router';

import type { Schemas } from '../../api/client';
import { ErrorNote } from '../../shared/ErrorNote';
import { changeText, countText, sizeText } from '../../shared/sizes';
import { MailPanel } from './MailPanel';
import { slipQueries } from './queries';
import classes from './Slip.module.css';

const STATES: Record<string, string> = {
  waiting: 'Waiting',
  working: 'Being made',
  none: 'No lighter copy',
  failed: 'Could not be done',
  cancelled: 'Cancelled',
};

/** The report of one run, to keep with the copies. */
export function Slip() {
  const { runId = '' } = useParams();
  const slip = useQuery(slipQueries.of(runId));
  if (slip.isError) return <ErrorNote>{slip.error.message}</ErrorNote>;
  if (!slip.data)
    return <Loader role="status" className={classes.wait} aria-label="Opening the slip" />;
  const { data } = slip;
  return (
    <div className={classes.root}>
      <header className={classes.head}>
        <div>
          <p className={classes.over}>
            <Link to={`/satchels/${data.satchel}`}>{data.satchel_name}</Link>
          </p>
          <h1 className={classes.title}>Slip of {momentText(data.made_at)}</h1>
          <p className={classes.total}>
            {data.preset}: {countText(data.rows.length, 'document')}, {sizeText(data.bytes_before)}{' '}
            → <strong>{sizeText(data.bytes_after)}</strong> (
            {changeText(data.bytes_before, data.bytes_after)})
          </p>
        </div>
        <div className={classes.buttons}>
          <Button
            variant="default"
            size="sm"
            leftSection={<IconPrinter size={16} />}
            onClick={() => window.print()}
          >
            Print
          </Button>
          <Button
            component="a"
            variant="default"
            size="sm"
            leftSection={<IconDownload size={16} />}
            href={`/api/runs/${runId}/slip.csv`}
          >
            CSV
          </Button>
          <Button
            component="a"
            variant="default"
            size="sm"
            leftSection={<IconDownload size={16} />}
            href={`/api/runs/${runId}/slip`}
            download="slip.json"
          >
            JSON
          </Button>
        </div>
      </header>
      {data.since && <Since since={data.since} />}
      <table className={classes.table}>
        <thead>
          <tr>
            <th scope="col">Document</th>
            <th scope="col">Before</th>
            <th scope="col">After</th>
            <th scope="col">Change</th>
            <th scope="col">Seconds</th>
            <th scope="col">Verdict</th>
          </tr>
        </thead>
        <tbody>
          {data.rows.map((row) => (
            <SlipLine key={row.copy_id} row={row} />
          ))}
        </tbody>
      </table>
      <MailPanel runId={runId} />
      <History satchelId={data.satchel} runId={runId} />
    </div>
  );
}

/** The changes since the previous run, as a sentence. */
function Since({ since }: { since: Schemas['Since'] }) {
  const told = [
    [since.added, 'added'],
    [since.taken_out, 'removed'],
    [since.anew, 'made again'],
    [since.as_before, 'as before'],
  ] as const;
  return (
    <p className={classes.since}>
      <Link to={`/runs/${since.run}/slip`}>Since {momentText(since.made_at)}</Link>:{' '}
      {told
        .filter(([names]) => names.length > 0)
        .map(([names, word]) => `${named(names)} ${word}`)
        .join('; ')}
      .
    </p>
  );
}

/** A few by their names, many by how many they are. */
function named(names: string[]): string {
  return names.length <= 3 ? names.join(', ') : countText(names.length, 'document');
}

function SlipLine({ row }: { row: Schemas['SlipRow'] }) {
  const off = row.kinds.filter((kind) => kind.before > kind.after);
  return (
    <tr>
      <th scope="row">
        <span className={classes.name}>
          {row.folder && `${row.folder}/`}
          {row.name}
        </span>
        {off.length > 0 && (
          <span className={classes.detail}>
            Saved:{' '}
            {off
              .map((kind) => `${kind.title.toLowerCase()} ${sizeText(kind.before - kind.after)}`)
              .join(', ')}
          </span>
        )}
        {row.gone.length > 0 && (
          <span className={classes.detail}>Cannot be undone: {row.gone.join(', ')}</span>
        )}
        {row.remarks.length > 0 && <span className={classes.detail}>{row.remarks.join('; ')}</span>}
        {row.earlier && <EarlierCopy copy={row.earlier} />}
        {row.unmet.length > 0 && (
          <span className={classes.unmet}>By the checklist {row.unmet.join('; ')}</span>
        )}
      </th>
      <td>{sizeText(row.bytes_before)}</td>
      <td>{row.bytes_after === null ? '–' : sizeText(row.bytes_after)}</td>
      <td>{row.bytes_after === null ? '–' : changeText(row.bytes_before, row.bytes_after)}</td>
      <td>{row.seconds === null ? '–' : row.seconds.toFixed(1)}</td>
      <td data-verdict={row.verdict || undefined}>
        {row.verdict_title ? `${row.verdict_title}: ${row.verdict_summary}` : STATES[row.state]}
      </td>
    </tr>
  );
}

/** The copy of the run before, for whoever chooses which of the two goes out. */
function EarlierCopy({ copy }: { copy: Schemas['EarlierCopy'] }) {
  return (
    <span className={classes.detail}>
      Run before ({copy.order}): {sizeText(copy.bytes_after)}, {copy.verdict_title.toLowerCase()}
      {copy.told && `, ${copy.told}`}. <Link to={`/copies/${copy.copy_id}`}>Compare</Link>{' '}
      <a href={`/api/copies/${copy.copy_id}/file`}>Download</a>
    </span>
  );
}

function History({ satchelId, runId }: { satchelId: string; runId: string }) {
  const history = useQuery(slipQueries.history(satchelId));
  const others = (history.data ?? []).filter((run) => run.id !== runId);
  if (others.length === 0) return null;
  return (
    <section className={classes.history}>
      <h2>Other runs of this satchel</h2>
      <ul>
        {others.map((run) => (
          <li key={run.id}>
            <Link to={`/runs/${run.id}/slip`}>{momentText(run.created_at)}</Link>
            <span>
              {run.title}, {countText(run.documents, 'document')}
              {run.bytes_after !== null &&
                `, ${sizeText(run.bytes_before)} → ${sizeText(run.bytes_after)}`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function momentText(moment: string): string {
  return new Date(moment).toLocaleString('en-GB', {
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  });
}
