import { Button, Checkbox, TextInput, UnstyledButton } from '@mantine/core';
import { IconChevronRight } from '@tabler/icons-react';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import panel from '../../shared/Panel.module.css';
import { ClassTuning } from './ClassTuning';
import type { PictureClass, PictureTreatment, Treatment } from './classes';
import classes from './FineTuning.module.css';
import { NumberField } from './NumberField';
import { type Satchel, type SatchelChanges, formatsOf, warningsOf } from '../satchel';
import { Switches } from './Switches';

interface FineTuningProps {
  satchel: Satchel;
  choices: Schemas['Choices'];
  changes: SatchelChanges;
}

/** The resolution below which text in a picture cannot be read (common practice, no source). */
const READABLE_PPI = 120;

/** The values of the preset; changes apply to this satchel only. */
export function FineTuning({ satchel, choices, changes }: FineTuningProps) {
  const [isOpen, setIsOpen] = useState(satchel.treatment !== null);
  const { wanted } = satchel;
  const tune = (treatment: Treatment) => changes.change.mutate({ treatment });
  const warnings = warningsOf(satchel);
  const formats = formatsOf(satchel, choices.formats);
  return (
    <section aria-labelledby="fine-tuning">
      <UnstyledButton
        className={classes.opener}
        aria-expanded={isOpen}
        onClick={() => setIsOpen(!isOpen)}
      >
        <IconChevronRight size={16} className={classes.chevron} aria-hidden />
        <h2 className={panel.title} id="fine-tuning">
          Fine tuning
        </h2>
      </UnstyledButton>
      {warnings.map((warning) => (
        <p key={warning} className={classes.warning}>
          {warning}
        </p>
      ))}
      {isOpen && (
        <div className={classes.body}>
          <ClassGrid wanted={wanted} choices={choices} formats={formats} onTune={tune} />
          {(wanted.pictures['page-scan'].finest_ppi ?? READABLE_PPI) < READABLE_PPI && (
            <Checkbox
              size="sm"
              label="Scanned pages may go below 120 ppi"
              description="Print that small can hardly be read; without this they stay at 120."
              checked={satchel.may_blur_text ?? false}
              onChange={(event) =>
                changes.change.mutate({ may_blur_text: event.currentTarget.checked })
              }
            />
          )}
          <Switches satchel={satchel} formats={formats} extras={choices.extras} onTune={tune} />
          {satchel.treatment !== null && (
            <KeepAsPreset satchel={satchel} choices={choices} changes={changes} />
          )}
        </div>
      )}
    </section>
  );
}

interface ClassGridProps {
  wanted: Treatment;
  choices: Schemas['Choices'];
  /** Formats of the documents of the satchel. */
  formats: Schemas['Format'][];
  onTune: (treatment: Treatment) => void;
}

function ClassGrid({ wanted, choices, formats, onTune }: ClassGridProps) {
  const [open, setOpen] = useState<PictureClass | null>(null);
  const set = (name: PictureClass, change: Partial<PictureTreatment>) =>
    onTune({
      ...wanted,
      pictures: { ...wanted.pictures, [name]: { ...wanted.pictures[name], ...change } },
    });
  return (
    <div className={classes.grid} role="group" aria-label="Pictures by class">
      <span className={classes.head}>Pictures</span>
      <span className={classes.head}>Resolution, ppi</span>
      <span className={classes.head}>Quality</span>
      {choices.picture_classes.map(({ value: name, title }) => {
        const own = wanted.pictures[name];
        return (
          <div key={name} className={classes.row}>
            <UnstyledButton
              className={classes.opener}
              aria-expanded={open === name}
              onClick={() => setOpen(open === name ? null : name)}
            >
              <IconChevronRight size={14} className={classes.chevron} aria-hidden />
              {title}
            </UnstyledButton>
            <NumberField
              label={`${title}, resolution in ppi`}
              isLabelHidden
              value={own.finest_ppi}
              least={20}
              most={2400}
              empty="all"
              onKeep={(finest_ppi) => set(name, { finest_ppi, above_ppi: null })}
            />
            <NumberField
              label={`${title}, quality`}
              isLabelHidden
              value={own.quality}
              least={1}
              most={100}
              empty="exact"
              onKeep={(quality) => set(name, { quality })}
            />
            {open === name && (
              <ClassTuning
                name={name}
                title={title}
                own={own}
                choices={choices}
                formats={formats}
                onChange={(change) => set(name, change)}
              />
            )}
          </div>
        );
      })}
      {formats.some(({ switches }) => switches.includes('assumed_size')) && (
        <div className={classes.assumed}>
          <NumberField
            label="Loose pictures are shown, cm long"
            value={wanted.assumed_cm}
            least={1}
            most={500}
            empty="25"
            onKeep={(assumed_cm) => onTune({ ...wanted, assumed_cm: assumed_cm ?? 25 })}
          />
          <p className={classes.none}>
            A picture by itself has no size: its longer side is taken as that long, as on a page,
            unless its own resolution says less. So the ppi above become pixels.
          </p>
        </div>
      )}
    </div>
  );
}

function KeepAsPreset({ satchel, choices, changes }: FineTuningProps) {
  const [title, setTitle] = useState('');
  const preset = choices.presets.find(({ name }) => name === satchel.preset);
  const keep = () => {
    if (title.trim())
      changes.keepPreset.mutate({
        title: title.trim(),
        description: `Tuned from ${preset?.title ?? 'another preset'}.`,
        treatment: satchel.wanted,
      });
  };
  return (
    <div className={classes.keeping}>
      <TextInput
        size="xs"
        label="Keep this as a preset called"
        value={title}
        maxLength={60}
        error={changes.keepPreset.error?.message}
        onChange={(event) => setTitle(event.currentTarget.value)}
        onKeyDown={(event) => event.key === 'Enter' && keep()}
      />
      <Button size="xs" variant="light" disabled={!title.trim()} onClick={keep}>
        Save
      </Button>
      <Button
        size="xs"
        variant="subtle"
        color="gray"
        className={classes.back}
        onClick={() => changes.change.mutate({ treatment: null })}
      >
        Back to {preset?.title ?? 'the preset'} as it is
      </Button>
    </div>
  );
}
