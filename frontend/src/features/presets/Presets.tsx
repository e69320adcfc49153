import { Button, Loader } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useRef } from 'react';

import { choicesQuery } from '../../api/choices';
import { ErrorNote } from '../../shared/ErrorNote';
import { freeTitle } from '../../shared/titles';
import { PresetRow } from './PresetRow';
import classes from '../../shared/Library.module.css';
import { usePresetChanges } from './queries';

/** The library: shipped presets to copy, own ones to change, as files to carry elsewhere. */
export function Presets() {
  const choices = useQuery(choicesQuery());
  const changes = usePresetChanges();
  const file = useRef<HTMLInputElement>(null);
  if (choices.isError) return <ErrorNote>{choices.error.message}</ErrorNote>;
  if (!choices.data)
    return <Loader role="status" className={classes.wait} aria-label="Opening the presets" />;

  const { presets, usual_preset: usual } = choices.data;
  const own = presets.filter((preset) => preset.is_own);
  const titles = presets.map(({ title }) => title);
  const refusal = Object.values(changes).find((one) => one.error)?.error;
  const row = (preset: (typeof presets)[number]) => (
    <PresetRow
      key={`${preset.name} ${preset.title} ${preset.description}`}
      preset={preset}
      isUsual={preset.name === usual}
      changes={changes}
      onCopy={() => changes.copy.mutate({ preset, title: freeTitle(preset.title, titles) })}
    />
  );
  return (
    <div className={classes.root}>
      <header className={classes.head}>
        <h1 className={classes.title}>Presets</h1>
        <Button
          variant="default"
          size="sm"
          loading={changes.take.isPending}
          onClick={() => file.current?.click()}
        >
          Import
        </Button>
        <input
          ref={file}
          type="file"
          accept="application/json,.json"
          hidden
          aria-label="Preset file"
          onChange={(event) => {
            const chosen = event.currentTarget.files?.[0];
            if (chosen) changes.take.mutate(chosen);
            event.currentTarget.value = '';
          }}
        />
      </header>
      {refusal && <ErrorNote>{refusal.message}</ErrorNote>}
      <h2 className={classes.group}>Your own</h2>
      {own.length === 0 ? (
        <p className={classes.none}>
          None yet. Duplicate one of those below, or keep the fine tuning of a satchel as a preset.
        </p>
      ) : (
        <ul className={classes.list}>{own.map(row)}</ul>
      )}
      <h2 className={classes.group}>Shipped</h2>
      <ul className={classes.list}>{presets.filter((preset) => !preset.is_own).map(row)}</ul>
    </div>
  );
}
