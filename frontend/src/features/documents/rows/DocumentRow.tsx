import { Box, Button, Progress } from '@mantine/core';
import {
  IconChevronRight,
  IconDownload,
  IconLink,
  IconListCheck,
  IconX,
  IconZoomScan,
} from '@tabler/icons-react';
import { useState } from 'react';
import { Link } from 'react-router';

import { Beam } from '../../../shared/Beam';
import { changeText, countText, sizeText } from '../../../shared/sizes';
import { waitText } from '../../../shared/waits';
import classes from './DocumentRow.module.css';
import { CopyOuts } from '../copies/CopyOuts';
import { HelpfulRemovals } from './HelpfulRemovals';
import { FailedDocument } from './FailedDocument';
import {
  CURRENT,
  type Document,
  type Satchel,
  type SatchelChanges,
  isFitting,
  isOpen,
  thenOf,
} from '../../satchel';
import { VerdictMark } from '../copies/VerdictMark';
import { WeightSheet } from '../parts/WeightSheet';

interface DocumentRowProps {
  document: Document;
  satchel: Satchel;
  /** Bytes that the whole width stands for. */
  scale: number;
  changes: SatchelChanges;
}

/** A document as a beam; opens in place to its weight sheet. */
export function DocumentRow({ document, satchel, scale, changes }: DocumentRowProps) {
  const [isUnfolded, setIsUnfolded] = useState(false);
  const [hasLinks, setHasLinks] = useState(false);
  const then = thenOf(document);
  const limit = satchel.limit_file_bytes;
  const isOver = then !== null && !isFitting(document, satchel);
  const lightest = then?.isMeasured ? null : (document.estimates[CURRENT]?.lightest ?? null);
  const isWeighing = document.state === 'waiting' || document.state === 'weighing';
  const copy = document.copy;
  const isCopying = copy?.state === 'waiting' || copy?.state === 'working';

  return (
    <li className={classes.root}>
      <div className={classes.line}>
        <button
          type="button"
          className={classes.opener}
          aria-expanded={isUnfolded}
          disabled={document.state !== 'weighed'}
          onClick={() => setIsUnfolded(!isUnfolded)}
        >
          <IconChevronRight className={classes.chevron} size={16} aria-hidden />
          <span className={classes.name}>{document.name}</span>
        </button>
        <span className={classes.facts}>{factsOf(document)}</span>
        <span className={classes.weight}>
          {sizeText(document.size_bytes)}
          {then && (
            <>
              {' → '}
              <Box component="strong" className={classes.then} mod={{ over: isOver }}>
                {then.isMeasured ? '' : 'about '}
                {sizeText(then.bytes)}
              </Box>
              {isOpen(document) ? (
                <>, if its pictures can be brought so far</>
              ) : isOver && lightest !== null ? (
                <span className={classes.over}>, the lightest that may be</span>
              ) : isOver && limit !== null ? (
                <span className={classes.over}>, {sizeText(then.bytes - limit)} over</span>
              ) : (
                <> ({changeText(document.size_bytes, then.bytes)})</>
              )}
            </>
          )}
        </span>
        <Button
          size="compact-sm"
          variant="subtle"
          color="gray"
          className={classes.remove}
          aria-label={`Remove ${document.name} from the satchel`}
          leftSection={<IconX size={15} />}
          onClick={() => changes.takeOut.mutate(document.id)}
        >
          Remove
        </Button>
      </div>
      <Beam
        now={document.size_bytes}
        then={then?.bytes ?? null}
        band={then?.band}
        scale={scale}
        isOver={isOver}
        label={beamLabel(document, then?.bytes ?? null, isOver)}
      />
      {isWeighing && <Working at={document} words="Weighing" />}
      {isCopying && (
        <Working
          at={copy}
          words={copy.state === 'waiting' ? 'Waiting its turn' : doingText(copy.doing)}
        />
      )}
      {document.error && <FailedDocument document={document} changes={changes} />}
      {copy && !isCopying && (
        <div className={classes.outcome}>
          <VerdictMark copy={copy} document={document} changes={changes} />
          {copy.state === 'done' && (
            <Actions
              document={document}
              copyId={copy.id}
              hasLinks={hasLinks}
              onLinks={() => setHasLinks(!hasLinks)}
            />
          )}
        </div>
      )}
      {isOver && limit !== null && (
        <HelpfulRemovals
          document={document}
          satchel={satchel}
          missing={(lightest ?? then.bytes) - limit}
          changes={changes}
        />
      )}
      <Unmet checks={document.checks} />
      {copy?.state === 'done' && <CopyOuts copy={copy} hasLinks={hasLinks} />}
      {isUnfolded && document.state === 'weighed' && (
        <WeightSheet document={document} satchel={satchel} changes={changes} />
      )}
    </li>
  );
}

interface ActionsProps {
  document: Document;
  copyId: string;
  hasLinks: boolean;
  onLinks: () => void;
}

/** What can be done with a finished copy. */
function Actions({ document, copyId, hasLinks, onLinks }: ActionsProps) {
  const looks = { size: 'compact-sm', variant: 'subtle' } as const;
  return (
    <span className={classes.actions}>
      <Button
        {...looks}
        component={Link}
        to={`/copies/${copyId}`}
        aria-label={`Compare ${document.name} with its copy`}
        leftSection={<IconZoomScan size={16} />}
      >
        Compare
      </Button>
      <Button
        {...looks}
        aria-label={`Share ${document.copy_name} by a link`}
        aria-expanded={hasLinks}
        leftSection={<IconLink size={16} />}
        onClick={onLinks}
      >
        Share
      </Button>
      <Button
        {...looks}
        component="a"
        href={`/api/copies/${copyId}/file`}
        aria-label={`Download ${document.copy_name}`}
        leftSection={<IconDownload size={16} />}
      >
        Download
      </Button>
    </span>
  );
}

/** The points of the limit's checklist that the copy does not meet. */
function Unmet({ checks }: { checks: Document['checks'] }) {
  const unmet = checks.filter((check) => !check.is_met);
  if (unmet.length === 0) return null;
  return (
    <p className={classes.unmet}>
      <IconListCheck size={16} aria-hidden /> Required there:{' '}
      {unmet.map(({ text, found }) => `${text} (here: ${found})`).join('; ')}
    </p>
  );
}

interface WorkingProps {
  at: { progress?: number; seconds_left?: number | null };
  words: string;
}

function Working({ at: { progress = 0, seconds_left }, words }: WorkingProps) {
  const facts = [
    words,
    progress > 0 ? `${Math.round(progress * 100)} %` : '',
    seconds_left == null ? '' : waitText(seconds_left),
  ];
  return (
    <div className={classes.working}>
      <span>{facts.filter(Boolean).join(', ')}</span>
      <Progress value={Math.max(2, progress * 100)} size="sm" aria-label={words} />
    </div>
  );
}

/** The present step of a copy; the core names it in small letters. */
function doingText(doing = ''): string {
  return doing === '' ? 'Making the copy' : doing.charAt(0).toUpperCase() + doing.slice(1);
}

function factsOf(document: Document): string {
  const facts = [
    document.kind_title,
    document.folder,
    document.pages === null ? '' : countText(document.pages, 'page'),
    document.standard,
    document.is_signed ? 'signed' : '',
  ];
  return facts.filter(Boolean).join(', ');
}

function beamLabel(document: Document, then: number | null, isOver: boolean): string {
  const now = `${document.name}, ${sizeText(document.size_bytes)} now`;
  if (then === null) return now;
  return `${now}, copy ${sizeText(then)}${isOver ? ', over the limit' : ''}`;
}
