import { Badge, Button, TextInput } from '@mantine/core';
import { useState } from 'react';

import classes from '../../shared/Library.module.css';
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
  const [isAsking, setIsAsking] = useState(false);
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
              Keep
            </Button>
            <Button size="xs" variant="default" onClick={() => setIsEditing(false)}>
              Never mind
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
      <div className={classes.buttons}>
        {!isUsual && (
          <Button
            size="compact-sm"
            variant="subtle"
            onClick={() => changes.makeUsual.mutate(preset.name)}
          >
            Begin with it
          </Button>
        )}
        <Button size="compact-sm" variant="subtle" onClick={onCopy}>
          Copy
        </Button>
        <Button
          size="compact-sm"
          variant="subtle"
          component="a"
          href={`/api/presets/${preset.name}/file`}
          download={`${preset.title}.json`}
        >
          As a file
        </Button>
        {preset.is_own && (
          <>
            <Button size="compact-sm" variant="subtle" onClick={() => setIsEditing(true)}>
              Rename
            </Button>
            {isAsking ? (
              <Button
                size="compact-sm"
                color="red.8"
                onClick={() => changes.remove.mutate(preset.name)}
              >
                Delete for good
              </Button>
            ) : (
              <Button
                size="compact-sm"
                variant="subtle"
                color="gray"
                onClick={() => setIsAsking(true)}
              >
                Delete
              </Button>
            )}
          </>
        )}
      </div>
    </li>
  );
}

function inShort({ treatment }: Preset): string {
  const { photo, 'page-scan': scan, 'two-tone': lines } = treatment.pictures;
  const fine = (ppi: number | null) => (ppi === null ? 'every pixel' : `${ppi} ppi`);
  return [
    `Photos: ${fine(photo.finest_ppi)}, ${photo.quality === null ? 'exact' : `quality ${photo.quality}`}`,
    `page scans: ${fine(scan.finest_ppi)}`,
    `two-tone: ${fine(lines.finest_ppi)}`,
    treatment.fonts.subset ? 'fonts: letters in use' : 'fonts: whole',
  ].join('; ');
}
