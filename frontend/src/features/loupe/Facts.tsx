import { Box, Button, Progress } from '@mantine/core';

import type { Schemas } from '../../api/client';
import { ErrorNote } from '../../shared/ErrorNote';
import { countText, sizeText } from '../../shared/sizes';
import { Explain } from '../guide';
import classes from './Facts.module.css';
import type { Proof, ProofPlace } from './places';

interface FactsProps {
  proof: Proof;
  page: ProofPlace;
  /** Progress of the copy that is made again; null if none is. */
  again: number | null;
  failure: string | undefined;
  onGentler: (parts: string[]) => void;
}

/** The verdict, what was counted, and the pictures of the page in sight. */
export function Facts({ proof, page, again, failure, onGentler }: FactsProps) {
  const word = proof.verdict_title;
  const pages = proof.places.filter((place) => place.page !== null);
  const pictures = proof.places.length - pages.length;
  const withText = proof.places.filter((place) => place.text_same !== null);
  const sameText = withText.filter((place) => place.text_same).length;
  const treated = page.pictures.filter(
    (picture) => picture.after < picture.before && !picture.is_exempt,
  );
  return (
    <aside className={classes.root} aria-label="What the proof found">
      <Box className={classes.verdict} mod={{ verdict: proof.verdict }}>
        <strong>{word}</strong>
        <span>{proof.verdict_summary}</span>
        <Explain chapter="verdicts" name={proof.verdict} title={word} />
      </Box>
      {proof.verdict === 'check' && (
        <ul className={classes.reasons}>
          {proof.reasons.slice(0, 6).map((reason) => (
            <li key={reason}>{reason}</li>
          ))}
        </ul>
      )}
      <dl className={classes.counts}>
        {pages.length > 0 && (
          <Count name="Pages, sizes" value={countText(pages.length, 'page')} isKept />
        )}
        {pictures > 0 && <Count name="Pictures" value={countText(pictures, 'picture')} isKept />}
        {withText.length > 0 && (
          <Count
            name="Text"
            value={
              sameText === withText.length
                ? 'same on all'
                : `differs on ${withText.length - sameText}`
            }
            isKept={sameText === withText.length}
          />
        )}
        {proof.counts.map(({ kind, before, after }) => (
          <Count
            key={kind}
            name={kind.charAt(0).toUpperCase() + kind.slice(1)}
            value={before === after ? `${after} kept` : `${after} of ${before}`}
            isKept={before === after}
          />
        ))}
      </dl>
      {proof.remarks.map((remark) => (
        <p key={remark} className={classes.gone}>
          {remark.charAt(0).toUpperCase() + remark.slice(1)}.
        </p>
      ))}
      {proof.gone.length > 0 && (
        <p className={classes.gone}>
          <span>Cannot be undone:</span> {proof.gone.join(', ')}
        </p>
      )}
      {proof.readers.length > 0 && (
        <details className={classes.note}>
          <summary>Readers used for the proof</summary>
          {proof.readers.join('; ')}
        </details>
      )}
      <h2 className={classes.title}>
        {page.page === null ? page.title : `Pictures on page ${page.page}`}
      </h2>
      {page.faults.map((fault) => (
        <p key={fault} className={classes.fault}>
          {fault}
        </p>
      ))}
      {page.pictures.length === 0 && (
        <p className={classes.none}>
          {pictures > 0
            ? 'Pictures are compared one by one: they have places of their own.'
            : 'No picture here was changed.'}
        </p>
      )}
      <ul className={classes.pictures}>
        {page.pictures.map((picture) => (
          <Picture
            key={`${picture.id} ${picture.box?.join(' ')}`}
            picture={picture}
            document={proof.document}
            isBusy={again !== null}
            onGentler={onGentler}
          />
        ))}
      </ul>
      {failure && <ErrorNote>{failure}</ErrorNote>}
      {again !== null ? (
        <div className={classes.again}>
          <span>Making the copy again, {Math.round(again * 100)} %</span>
          <Progress value={Math.max(3, again * 100)} aria-label="Making the copy again" />
        </div>
      ) : (
        treated.length > 1 && (
          <Button
            size="compact-sm"
            variant="default"
            onClick={() => onGentler(treated.map((one) => one.id))}
          >
            All of this page gentler
          </Button>
        )
      )}
      {treated.length > 0 && (
        <p className={classes.note}>
          A gentler picture stays unchanged, and the copy is made again
          {gentlerCost(proof, treated)}
        </p>
      )}
    </aside>
  );
}

/** The cost of gentler pictures: bytes, or, below a limit, the effect on others. */
function gentlerCost(proof: Proof, pictures: Schemas['ProofPicture'][]): string {
  if (proof.limit !== null) {
    return `; others give way, so that it stays below ${sizeText(proof.limit)}.`;
  }
  const heavierBy = pictures.reduce((sum, picture) => sum + picture.before - picture.after, 0);
  return `: up to ${sizeText(heavierBy)} heavier${proof.has_pages ? ' for this page' : ''}.`;
}

function Count({ name, value, isKept }: { name: string; value: string; isKept: boolean }) {
  return (
    <>
      <dt>{name}</dt>
      <Box component="dd" mod={{ lost: !isKept }}>
        {value}
      </Box>
    </>
  );
}

/** The score that was estimated, beside the measured one. */
function plainReason(reason: string): string {
  return reason.replace(/: score \d+ of 100/, '');
}

interface PictureProps {
  picture: Schemas['ProofPicture'];
  document: string;
  isBusy: boolean;
  onGentler: (parts: string[]) => void;
}

function Picture({ picture, document, isBusy, onGentler }: PictureProps) {
  const isTreated = picture.after < picture.before;
  return (
    <li className={classes.picture}>
      <img
        className={classes.thumbnail}
        src={`/api/documents/${document}/thumbnail?part=${encodeURIComponent(picture.id)}`}
        alt=""
        loading="lazy"
      />
      <div>
        <span className={classes.weights}>
          {sizeText(picture.before)}
          {isTreated && ` → ${sizeText(picture.after)}`}
        </span>
        <span className={classes.reason}>{plainReason(picture.reason)}</span>
        {picture.score !== null && (
          <span className={classes.reason}>score {Math.round(picture.score)} of 100</span>
        )}
        {isTreated && !picture.is_exempt && (
          <Button
            size="compact-sm"
            variant="light"
            className={classes.gentler}
            disabled={isBusy}
            aria-label={`Gentler with ${picture.name}`}
            onClick={() => onGentler([picture.id])}
          >
            Gentler
          </Button>
        )}
      </div>
    </li>
  );
}
