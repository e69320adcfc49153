import { Radio, Switch, TextInput } from '@mantine/core';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import panel from '../../shared/Panel.module.css';
import { sizeText } from '../../shared/sizes';
import classes from './ChoicePanel.module.css';
import { Explain } from '../guide';
import { FineTuning } from '../tuning';
import { FITTED, FitOption } from './FitOption';
import { LimitChoice } from './LimitChoice';
import { CURRENT, formatsOf, type Satchel, type SatchelChanges, totalsOf } from '../satchel';

interface ChoicePanelProps {
  satchel: Satchel;
  choices: Schemas['Choices'];
  changes: SatchelChanges;
}

/** The choices of a satchel: limit, preset and names of copies; each is saved at once. */
export function ChoicePanel({ satchel, choices, changes }: ChoicePanelProps) {
  const example = satchel.documents[0]?.copy_name ?? `report${satchel.suffix ?? ''}`;
  return (
    <aside id="choices" className={classes.root} aria-label="Settings of the copies">
      <section>
        <h2 className={panel.title}>Where is it going?</h2>
        <LimitChoice satchel={satchel} limits={choices.limits} changes={changes} />
      </section>
      <section>
        <h2 className={panel.title} id="how-gently">
          How gently?
        </h2>
        <Radio.Group
          aria-labelledby="how-gently"
          value={satchel.is_fitted ? FITTED : (satchel.preset ?? '')}
          onChange={(value) =>
            changes.change.mutate(
              value === FITTED ? { is_fitted: true } : { preset: value, is_fitted: false },
            )
          }
        >
          <FitOption
            satchel={satchel}
            formats={formatsOf(satchel, choices.formats)}
            changes={changes}
          />
          {choices.presets.map((preset) => (
            <PresetOption key={preset.name} preset={preset} satchel={satchel} />
          ))}
        </Radio.Group>
      </section>
      {!satchel.is_fitted && <FineTuning satchel={satchel} choices={choices} changes={changes} />}
      <section>
        <h2 className={panel.title}>What are the copies called?</h2>
        <div className={classes.naming}>
          <NamePart
            key={`before ${satchel.prefix}`}
            label="Before the name"
            value={satchel.prefix ?? ''}
            onKeep={(prefix) => changes.change.mutate({ prefix })}
          />
          <NamePart
            key={`after ${satchel.suffix}`}
            label="After the name"
            value={satchel.suffix ?? ''}
            onKeep={(suffix) => changes.change.mutate({ suffix })}
          />
        </div>
        <Switch
          size="sm"
          mt={10}
          label="Number repeated runs"
          description="From the second run on, names end in -round-2 and so on."
          checked={satchel.counts_rounds ?? false}
          onChange={(event) =>
            changes.change.mutate({ counts_rounds: event.currentTarget.checked })
          }
        />
        <p className={classes.note}>
          As in <span className={classes.example}>{example}</span>. Originals keep their names and
          stay as they are.
        </p>
      </section>
    </aside>
  );
}

interface PresetOptionProps {
  preset: Schemas['Preset'];
  satchel: Satchel;
}

function PresetOption({ preset, satchel }: PresetOptionProps) {
  const isChosen = satchel.preset === preset.name && !satchel.is_fitted;
  const isTuned = isChosen && satchel.treatment !== null;
  const totals = totalsOf(satchel, isChosen ? CURRENT : preset.name);
  return (
    <div className={classes.choice}>
      <label className={classes.option} data-chosen={isChosen || undefined}>
        <Radio value={preset.name} size="sm" />
        <span>
          <span className={classes.presetName}>
            {preset.title}
            {isTuned && ', tuned'}
          </span>
          <span className={classes.presetText}>{preset.description}</span>
        </span>
        <span className={classes.figure}>
          {totals.counted > 0 && `${totals.isMeasured ? '' : '~ '}${sizeText(totals.then)}`}
        </span>
      </label>
      {!preset.is_own && <Explain chapter="presets" name={preset.name} title={preset.title} />}
    </div>
  );
}

interface NamePartProps {
  label: string;
  value: string;
  onKeep: (value: string) => void;
}

function NamePart({ label, value, onKeep }: NamePartProps) {
  const [draft, setDraft] = useState(value);
  const keep = () => {
    if (draft !== value) onKeep(draft);
  };
  return (
    <TextInput
      label={label}
      value={draft}
      maxLength={40}
      onChange={(event) => setDraft(event.currentTarget.value)}
      onBlur={keep}
      onKeyDown={(event) => event.key === 'Enter' && keep()}
    />
  );
}
