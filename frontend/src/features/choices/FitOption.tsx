import { Checkbox, Radio, SegmentedControl } from '@mantine/core';

import type { Schemas } from '../../api/client';
import { sizeText } from '../../shared/sizes';
import classes from './ChoicePanel.module.css';
import fitClasses from './FitOption.module.css';
import { FitWays } from './FitWays';
import { CURRENT, type Satchel, type SatchelChanges, totalsOf } from '../satchel';

interface FitOptionProps {
  satchel: Satchel;
  /** Formats of the documents of the satchel. */
  formats: Schemas['Format'][];
  changes: SatchelChanges;
}

/** The value of the choice beside the names of presets. */
export const FITTED = '(fitted)';

const FLOORS = [
  { value: '70', label: 'good' },
  { value: '55', label: 'fair' },
  { value: '35', label: 'rough' },
];

/** The fit to a limit: the lowest permitted score, and further removals. */
export function FitOption({ satchel, formats, changes }: FitOptionProps) {
  const hasLimit = satchel.limit_bytes != null;
  const isChosen = satchel.is_fitted === true;
  const totals = totalsOf(satchel, CURRENT);
  return (
    <>
      <label
        className={classes.option}
        data-chosen={isChosen || undefined}
        data-off={!hasLimit || undefined}
      >
        <Radio value={FITTED} size="sm" disabled={!hasLimit} />
        <span>
          <span className={classes.presetName}>As gently as the limit allows</span>
          <span className={classes.presetText}>
            {hasLimit
              ? 'Each picture loses only as much as it must, the least visible first.'
              : 'Choose a limit above first.'}
          </span>
        </span>
        <span className={classes.figure}>
          {isChosen &&
            totals.counted > 0 &&
            `${totals.isMeasured ? '' : '~ '}${sizeText(totals.then)}`}
        </span>
      </label>
      {isChosen && (
        <div className={fitClasses.rules}>
          <div>
            <span className={fitClasses.label} id="floor">
              Lowest score of a picture
            </span>
            <SegmentedControl
              aria-labelledby="floor"
              size="sm"
              fullWidth
              data={FLOORS}
              value={nearestFloor(satchel.fit_floor ?? 55)}
              onChange={(value) => changes.change.mutate({ fit_floor: Number(value) })}
            />
          </div>
          <FitWays satchel={satchel} changes={changes} />
          {formats.some((format) => format.can_split) && (
            <Checkbox
              size="sm"
              label="Split what still does not fit"
              description="Numbered pieces, each below the limit"
              checked={satchel.may_split ?? false}
              onChange={(event) =>
                changes.change.mutate({ may_split: event.currentTarget.checked })
              }
            />
          )}
        </div>
      )}
    </>
  );
}

/** Floors set elsewhere show as the step below them. */
function nearestFloor(floor: number): string {
  return FLOORS.find(({ value }) => Number(value) <= floor)?.value ?? '35';
}
