import { ActionIcon, Checkbox } from '@mantine/core';
import { IconArrowDown, IconArrowUp } from '@tabler/icons-react';

import classes from './FitOption.module.css';
import { type Satchel, type SatchelChanges } from '../satchel';

interface FitWaysProps {
  satchel: Satchel;
  changes: SatchelChanges;
}

type Way = NonNullable<Satchel['fit_ways']>[number];

/** The removals offered once pictures have the lowest permitted score, in order. */
const OFFERED: { way: Way; label: string }[] = [
  { way: 'metadata', label: 'remove metadata' },
  { way: 'attachments', label: 'remove attached files' },
  { way: 'grey', label: 'colour pictures to greyscale' },
  { way: 'bitonal', label: 'scanned pages to black and white' },
];

/** A list of ways with their order: those that are allowed come first, and can be moved. */
export function FitWays({ satchel, changes }: FitWaysProps) {
  const allowed = satchel.fit_ways ?? [];
  const rows = [
    ...allowed.map((way) => OFFERED.find((one) => one.way === way) ?? { way, label: way }),
    ...OFFERED.filter(({ way }) => !allowed.includes(way)),
  ];
  const keep = (fit_ways: Way[]) => changes.change.mutate({ fit_ways });
  const move = (way: Way, by: number) => {
    const at = allowed.indexOf(way);
    const next = allowed.filter((one) => one !== way);
    next.splice(at + by, 0, way);
    keep(next);
  };
  return (
    <div>
      <span className={classes.label}>If that is not enough, in this order</span>
      <ol className={classes.ways}>
        {rows.map(({ way, label }) => {
          const at = allowed.indexOf(way);
          return (
            <li key={way} className={classes.way}>
              <Checkbox
                size="sm"
                label={label}
                checked={at >= 0}
                onChange={(event) =>
                  keep(
                    event.currentTarget.checked
                      ? [...allowed, way]
                      : allowed.filter((one) => one !== way),
                  )
                }
              />
              {at >= 0 && allowed.length > 1 && (
                <>
                  <ActionIcon
                    variant="subtle"
                    color="gray"
                    size="sm"
                    aria-label={`${label}: earlier`}
                    disabled={at === 0}
                    onClick={() => move(way, -1)}
                  >
                    <IconArrowUp size={15} />
                  </ActionIcon>
                  <ActionIcon
                    variant="subtle"
                    color="gray"
                    size="sm"
                    aria-label={`${label}: later`}
                    disabled={at === allowed.length - 1}
                    onClick={() => move(way, 1)}
                  >
                    <IconArrowDown size={15} />
                  </ActionIcon>
                </>
              )}
            </li>
          );
        })}
      </ol>
    </div>
  );
}
