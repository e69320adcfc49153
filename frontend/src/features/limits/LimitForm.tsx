import { Button, Checkbox, NumberInput, SegmentedControl, TextInput } from '@mantine/core';
import { useState } from 'react';

import classes from '../../shared/Library.module.css';
import type { Limit, LimitDraft } from './queries';
import { endingsOf } from '../../shared/checklists';

interface LimitFormProps {
  limit: Limit;
  isBusy: boolean;
  failure: string | undefined;
  onKeep: (draft: LimitDraft) => void;
  onCancel: () => void;
}

const MB = 1_000_000;
const NO_RULE = { no_spaces: false, ascii_only: false, most_letters: null };

/** All of a limit: how heavy, and what else is asked where it is met. */
export function LimitForm({ limit, isBusy, failure, onKeep, onCancel }: LimitFormProps) {
  const [title, setTitle] = useState(limit.title);
  const [size, setSize] = useState(limit.size_bytes / MB);
  const [carrier, setCarrier] = useState(limit.carrier);
  const [endings, setEndings] = useState(
    (limit.checklist.endings ?? []).map((one) => one.slice(1)).join(', '),
  );
  const [list, setList] = useState(limit.checklist);
  const names = list.names ?? NO_RULE;
  const setNames = (change: Partial<typeof names>) =>
    setList({ ...list, names: { ...names, ...change } });
  return (
    <form
      className={classes.form}
      onSubmit={(event) => {
        event.preventDefault();
        onKeep({
          title: title.trim(),
          size_bytes: Math.round(size * MB),
          carrier,
          checklist: { ...list, endings: endingsOf(endings) },
        });
      }}
    >
      <TextInput
        label="Name"
        value={title}
        maxLength={60}
        required
        data-autofocus
        error={failure}
        onChange={(event) => setTitle(event.currentTarget.value)}
      />
      <div className={classes.pair}>
        <NumberInput
          label="Largest file"
          value={size}
          min={0.001}
          max={1_000_000}
          decimalScale={3}
          suffix=" MB"
          required
          onChange={(value) => setSize(Number(value))}
        />
        <div>
          <span className={classes.label}>Counted</span>
          <SegmentedControl
            fullWidth
            aria-label="What the limit counts"
            value={carrier}
            onChange={setCarrier}
            data={[
              { value: 'file', label: 'as a file' },
              { value: 'message', label: 'as a message' },
            ]}
          />
        </div>
      </div>
      <div className={classes.pair}>
        <TextInput
          label="Accepted kinds of files"
          description="Extensions, such as pdf, tif; empty for all."
          value={endings}
          onChange={(event) => setEndings(event.currentTarget.value)}
        />
        <NumberInput
          label="Maximum pages"
          description="Empty for any number."
          value={list.most_pages ?? ''}
          min={1}
          max={100_000}
          allowDecimal={false}
          onChange={(value) =>
            setList({ ...list, most_pages: value === '' ? null : Number(value) })
          }
        />
      </div>
      <div className={classes.pair}>
        <div className={classes.boxes}>
          <Checkbox
            size="sm"
            label="PDF/A is required"
            checked={list.needs_pdf_a}
            onChange={(event) => setList({ ...list, needs_pdf_a: event.currentTarget.checked })}
          />
          <span className={classes.label}>Names of copies</span>
          <Checkbox
            size="sm"
            label="No spaces"
            checked={names.no_spaces}
            onChange={(event) => setNames({ no_spaces: event.currentTarget.checked })}
          />
          <Checkbox
            size="sm"
            label="Plain letters only (ä becomes a)"
            checked={names.ascii_only}
            onChange={(event) => setNames({ ascii_only: event.currentTarget.checked })}
          />
        </div>
        <NumberInput
          label="Letters of a name, at most"
          description="With its ending; empty for any number."
          value={names.most_letters ?? ''}
          min={12}
          max={255}
          allowDecimal={false}
          onChange={(value) => setNames({ most_letters: value === '' ? null : Number(value) })}
        />
      </div>
      <div className={classes.buttons}>
        <Button type="submit" size="xs" loading={isBusy}>
          Save
        </Button>
        <Button size="xs" variant="default" onClick={onCancel}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
