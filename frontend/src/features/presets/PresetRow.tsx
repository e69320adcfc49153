import { Badge, Button, TextInput } from '@mantine/core';
import { useState } from 'react';

import classes from '../../shared/Library.module.css';
import { LibraryButtons } from '../../shared/LibraryButtons';
import type { Preset, PresetChanges } from './queries';

interface PresetRowProps {
  preset: Preset;
  /** New satchels begin with it. */
  isUsual: boolean;
  changes: PresetChanges;
  onCopy: () => void;
}

/** A preset in short, with what can be done to it. */
export function PresetRow({ preset, isUsual, changes, onCopy }: PresetRowProps) {
  const [isEditing, setIsEditing] = useState(false);
  const [title, setTitle] = useState(preset.title);
  const [description, setDescription] = useState(preset.description);
  if (isEditing) {
    return (
      <li className={classes.row}>
        <form
          className={classes.form}
          onSubmit={(event) => {
            event.preventDefault();
            changes.change.mutate(
              { name: preset.name, title: title.trim(), description },
              { onSuccess: () => setIsEditing(false) },
            );
          }}
        >
          <TextInput
            label="Title"
            value={title}
            maxLength={60}
            required
            data-autofocus
            onChange={(event) => setTitle(event.currentTarget.value)}
          />
          <TextInput
            label="What it is for"
            value={description}
            maxLength={500}
            onChange={(event) => setDescription(event.currentTarget.value)}
          />
          <div className={classes.buttons}>
            <Button type="submit" size="xs" loading={changes.change.isPending}>
              Save
            </Button>
            <Button size="xs" variant="default" onClick={() => setIsEditing(false)}>
              Cancel
            </Button>
          </div>
        </form>
      </li>
    );
  }
  return (
    <li className={classes.row}>
      <div>
        <strong className={classes.name}>
          {preset.title}
          {isUsual && (
            <Badge variant="light" size="sm" className={classes.usual}>
              for new satchels
            </Badge>
          )}
        </strong>
        <span className={classes.text}>{preset.description}</span>
        <span className={classes.text}>{inShort(preset)}</span>
      </div>
      <LibraryButtons
        title={preset.title}
        fileAddress={`/api/presets/${preset.name}/file`}
        isOwn={preset.is_own}
        changeWord="Rename"
        onCopy={onCopy}
        onChange={() => setIsEditing(true)}
        onDelete={() => changes.remove.mutate(preset.name)}
      >
        {!isUsual && (
          <Button
            size="compact-sm"
            variant="subtle"
            onClick={() => changes.makeUsual.mutate(preset.name)}
          >
            Set as default
          </Button>
        )}
      </LibraryButtons>
    </li>
  );
}

function inShort({ treatment }: Preset): string {
  const { photo, 'page-scan': scan, bitonal: lines } = treatment.pictures;
  const fine = (ppi: number | null) => (ppi === null ? 'every pixel' : `${ppi} ppi`);
  return [
    `Photos: ${fine(photo.finest_ppi)}, ${photo.quality === null ? 'exact' : `quality ${photo.quality}`}`,
    `page scans: ${fine(scan.finest_ppi)}`,
    `black and white: ${fine(lines.finest_ppi)}`,
    treatment.fonts.subset ? 'fonts: letters in use' : 'fonts: whole',
  ].join('; ');
}
