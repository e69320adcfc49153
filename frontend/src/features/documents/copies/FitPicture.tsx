import { Box } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';

import type { Schemas } from '../../../api/client';
import { countText, sizeText } from '../../../shared/sizes';
import classes from './FitPicture.module.css';
import { CURRENT, type Document, type Satchel, benchQueries } from '../../satchel';

interface FitPictureProps {
  document: Document;
  satchel: Satchel;
}

type Chosen = Schemas['Chosen'];

const LEAST_SCORE = 20;
const MOST_SHOWN = 400;

/** The decisions of a fit: for each picture its weight before and after, and its score. */
export function FitPicture({ document, satchel }: FitPictureProps) {
  const asked = [
    satchel.limit_bytes,
    satchel.limit_carrier,
    satchel.is_limit_shared,
    satchel.fit_floor,
    satchel.fit_ways,
    document.exceptions,
    document.trial_progress,
    // Moves when the server has answered a choice that the page shows already.
    document.estimates[CURRENT],
  ];
  const fit = useQuery({ ...benchQueries.fit(document.id, asked), enabled: satchel.is_fitted });
  if (!fit.data || fit.data.pictures.length === 0) return null;
  const { data } = fit;
  const moved = data.pictures.filter((one) => one.after < one.before);
  const heaviest = Math.max(...data.pictures.map((one) => one.before));
  return (
    <figure className={classes.root}>
      <figcaption className={classes.caption}>
        {data.untried > 0
          ? `Whether it fits ${sizeText(data.limit)} is not known yet: ${countText(data.untried, 'picture')} still to be tried.`
          : data.is_met
            ? `Fits ${sizeText(data.limit)}: ${moved.length} of ${data.pictures.length} pictures lose something.`
            : `Cannot reach ${sizeText(data.limit)}: the lightest copy is about ${sizeText(data.lightest)}.`}{' '}
        {data.used.length > 0 && `Also used: ${data.used.join(', ')}.`}
      </figcaption>
      <div className={classes.plot} role="img" aria-label={describe(data)}>
        <Box className={classes.floor} __vars={{ '--at': place(data.floor) }}>
          <span>no worse than {Math.round(data.floor)}</span>
        </Box>
        <Box className={classes.grade} __vars={{ '--at': place(90) }}>
          <span>90, nobody sees it</span>
        </Box>
        {data.pictures.slice(0, MOST_SHOWN).map((one) => (
          <Box
            key={one.part}
            className={classes.dot}
            mod={{ kept: one.after >= one.before }}
            __vars={{
              '--across': `${Math.sqrt(one.before / heaviest) * 100}%`,
              '--at': place(one.score),
              '--size': `${8 + 10 * (1 - one.after / Math.max(1, one.before))}px`,
            }}
            title={`Page ${one.page ?? '–'}: ${sizeText(one.before)} to ${sizeText(one.after)}, score ${Math.round(one.score)} of 100`}
          />
        ))}
        <span className={classes.across}>light pictures → heavy pictures</span>
        <span className={classes.up}>score</span>
      </div>
    </figure>
  );
}

/** The height of a score in the chart. */
function place(score: number): string {
  return `${Math.max(0, Math.min(1, (score - LEAST_SCORE) / (100 - LEAST_SCORE))) * 100}%`;
}

function describe({ pictures }: { pictures: Chosen[] }): string {
  const scores = pictures.map((one) => one.score);
  return `${pictures.length} pictures; the lowest score is ${Math.round(Math.min(...scores))} of 100`;
}
