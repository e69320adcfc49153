import { NumberInput, SegmentedControl, Select } from '@mantine/core';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { sizeText } from '../../shared/sizes';
import classes from './LimitChoice.module.css';
import { pointsOf } from '../../shared/checklists';
import { type Satchel, type SatchelChanges } from '../satchel';

type Carrier = Schemas['CarrierEnum'];

interface LimitChoiceProps {
  satchel: Satchel;
  limits: Schemas['Limit'][];
  changes: SatchelChanges;
}

const NONE = 'none';
const OWN = 'own';
const MB = 1_000_000;

/** No limit, one that ships, or a figure of one's own; as a file or inside a mail message. */
export function LimitChoice({ satchel, limits, changes }: LimitChoiceProps) {
  const bytes = satchel.limit_bytes ?? null;
  const carrier = satchel.limit_carrier ?? 'file';
  const asked = satchel.checklist ?? null;
  const known = limits.find(
    (one) =>
      one.size_bytes === bytes &&
      one.carrier === carrier &&
      pointsOf(one.checklist).join() === pointsOf(asked).join(),
  );
  const [wantsOwn, setWantsOwn] = useState(false);
  const isOwn = bytes !== null && (wantsOwn || !known);
  const chosen = bytes === null ? NONE : isOwn ? OWN : (known?.name ?? OWN);
  const points = pointsOf(asked);

  const set = (
    limit_bytes: number | null,
    limit_carrier: Carrier,
    checklist: Schemas['Checklist'] | null = asked,
  ) => changes.change.mutate({ limit_bytes, limit_carrier, checklist });
  const choose = (name: string | null) => {
    setWantsOwn(name === OWN);
    const limit = limits.find((one) => one.name === name);
    if (name === NONE) set(null, 'file', null);
    else if (limit) set(limit.size_bytes, limit.carrier, askedBy(limit));
    else if (bytes === null) set(5 * MB, 'file', null);
  };

  return (
    <div className={classes.root}>
      <Select
        aria-label="Limit"
        allowDeselect={false}
        value={chosen}
        onChange={choose}
        data={[
          { value: NONE, label: 'No limit' },
          ...limits.map((limit) => ({ value: limit.name, label: labelOf(limit) })),
          { value: OWN, label: 'A figure of my own' },
        ]}
      />
      {isOwn && (
        <div className={classes.own}>
          <NumberInput
            aria-label="Limit in MB"
            value={bytes / MB}
            min={0.1}
            max={100000}
            decimalScale={2}
            suffix=" MB"
            onBlur={(event) => {
              const wanted = Number.parseFloat(event.currentTarget.value);
              if (wanted > 0 && wanted * MB !== bytes) set(Math.round(wanted * MB), carrier);
            }}
            onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
          />
          <SegmentedControl
            aria-label="What the limit counts"
            value={carrier}
            onChange={(value) => set(bytes, value)}
            data={[
              { value: 'file', label: 'as a file' },
              { value: 'message', label: 'as a message' },
            ]}
          />
        </div>
      )}
      {bytes !== null && (
        <SegmentedControl
          aria-label="What the limit is for"
          size="sm"
          fullWidth
          value={satchel.is_limit_shared ? 'all' : 'each'}
          onChange={(value) => changes.change.mutate({ is_limit_shared: value === 'all' })}
          data={[
            { value: 'each', label: 'for each document' },
            { value: 'all', label: 'for all together' },
          ]}
        />
      )}
      <p className={classes.note}>{noteOf(satchel)}</p>
      {points.length > 0 && <p className={classes.note}>Requires {points.join('; ')}.</p>}
    </div>
  );
}

function askedBy({ checklist }: Schemas['Limit']): Schemas['Checklist'] | null {
  return pointsOf(checklist).length > 0 ? checklist : null;
}

function labelOf(limit: Schemas['Limit']): string {
  const carrier = limit.carrier === 'message' ? ' a message' : '';
  return `${limit.title}, ${sizeText(limit.size_bytes)}${carrier}`;
}

function noteOf(satchel: Satchel): string {
  if (satchel.limit_file_bytes === null) return 'Without a limit, every copy fits.';
  if (satchel.limit_carrier !== 'message') {
    return satchel.is_limit_shared
      ? 'Counted as files, all copies together.'
      : 'Counted as a file, for each document.';
  }
  const carried = sizeText(satchel.limit_file_bytes);
  return `Mail adds about a third on the way: such a message carries a file of ${carried}.`;
}
