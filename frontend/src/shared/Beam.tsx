import { Box } from '@mantine/core';

import classes from './Beam.module.css';

interface BeamProps {
  /** The present weight; the beam is that long on the scale. */
  now: number;
  /** The weight of the copy, or its estimate; null while unknown. */
  then: number | null;
  /** The weight that the whole width stands for. */
  scale: number;
  /** The band an estimate lies in; drawn as a soft end. */
  band?: { low: number; high: number } | undefined;
  /** The limit; bytes above it are drawn in rust. */
  isOver?: boolean;
  label: string;
  size?: 'row' | 'total';
}

const percent = (part: number, whole: number) =>
  `${whole > 0 ? Math.min(100, (part / whole) * 100) : 0}%`;

/** The weigh beam: solid is what stays, hatched is what comes off. */
export function Beam({ now, then, scale, band, isOver = false, label, size = 'row' }: BeamProps) {
  return (
    <Box
      className={classes.root}
      mod={{ size, over: isOver, unknown: then === null }}
      role="img"
      aria-label={label}
      __vars={{ '--beam-length': percent(now, scale) }}
    >
      {then !== null && (
        <Box
          component="i"
          className={classes.solid}
          __vars={{ '--beam-part': percent(then, now) }}
        />
      )}
      {band && band.high > band.low && (
        <Box
          component="i"
          className={classes.band}
          __vars={{
            '--beam-from': percent(band.low, now),
            '--beam-part': percent(band.high - band.low, now),
          }}
        />
      )}
    </Box>
  );
}
