import { TextInput } from '@mantine/core';
import { useState } from 'react';

import classes from './FineTuning.module.css';

interface NumberFieldProps {
  label: string;
  value: number | null;
  least: number;
  most: number;
  /** Shown where nothing is set. */
  empty: string;
  /** The label stands elsewhere, as in the head of a column. */
  isLabelHidden?: boolean;
  onKeep: (value: number | null) => void;
}

/** A whole number, or nothing; kept when it is left, so that half a number changes nothing. */
export function NumberField(props: NumberFieldProps) {
  // Another value from outside, as after undo, starts the field anew.
  return <Field key={props.value} {...props} />;
}

function Field({ label, value, least, most, empty, isLabelHidden, onKeep }: NumberFieldProps) {
  const [draft, setDraft] = useState(value === null ? '' : String(Math.round(value)));
  const keep = () => {
    const number = draft.trim() === '' ? null : Number(draft);
    if (number !== null && Number.isNaN(number)) {
      setDraft(value === null ? '' : String(value));
      return;
    }
    const kept = number === null ? null : Math.round(Math.min(most, Math.max(least, number)));
    if (kept !== value) onKeep(kept);
    setDraft(kept === null ? '' : String(kept));
  };
  return (
    <TextInput
      size="xs"
      className={classes.number}
      label={isLabelHidden ? undefined : label}
      aria-label={isLabelHidden ? label : undefined}
      inputMode="numeric"
      placeholder={empty}
      value={draft}
      onChange={(event) => setDraft(event.currentTarget.value)}
      onBlur={keep}
      onKeyDown={(event) => event.key === 'Enter' && keep()}
    />
  );
}
