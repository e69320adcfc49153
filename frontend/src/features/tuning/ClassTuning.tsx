import { ActionIcon, Checkbox, NativeSelect, Slider } from '@mantine/core';
import { IconArrowUp } from '@tabler/icons-react';

import type { Schemas } from '../../api/client';
import { Explain } from '../guide';
import { optionsOf } from '../../api/choices';
import type { PictureClass, PictureTreatment } from './classes';
import classes from './FineTuning.module.css';
import { NumberField } from './NumberField';

interface ClassTuningProps {
  name: PictureClass;
  title: string;
  own: PictureTreatment;
  choices: Schemas['Choices'];
  /** Formats of the documents of the satchel; codings that none of them can hold are not offered. */
  formats: Schemas['Format'][];
  onChange: (change: Partial<PictureTreatment>) => void;
}

/** Everything else that can be asked of the pictures of one class. */
export function ClassTuning({ name, title, own, choices, formats, onChange }: ClassTuningProps) {
  const codings = optionsOf(choices.picture_codings).filter(
    ({ value }) =>
      value === own.coding ||
      ((value !== 'layers' || name === 'page-scan') &&
        formats.some((one) => one.codings.includes(value))),
  );
  const strengthOf = (kind: string) => own.filters.find((one) => one.kind === kind)?.strength;
  const setFilter = (kind: Filters[number]['kind'], strength: number | null) => {
    const others = own.filters.filter((one) => one.kind !== kind);
    const at = own.filters.findIndex((one) => one.kind === kind);
    if (strength === null) onChange({ filters: others });
    else if (at < 0) onChange({ filters: [...own.filters, { kind, strength }] });
    else
      onChange({
        filters: own.filters.map((one) => (one.kind === kind ? { kind, strength } : one)),
      });
  };
  return (
    <div className={classes.more}>
      <div className={classes.wide}>
        <Explain chapter="classes" name={name} title={title} />
      </div>
      <NativeSelect
        size="xs"
        label="Encoding"
        data={codings}
        value={own.coding}
        onChange={(event) =>
          onChange({ coding: event.currentTarget.value as PictureTreatment['coding'] })
        }
      />
      <NativeSelect
        size="xs"
        label="Colours"
        data={optionsOf(choices.colours)}
        value={own.colour}
        onChange={(event) =>
          onChange({ colour: event.currentTarget.value as PictureTreatment['colour'] })
        }
      />
      {own.colour === 'bitonal' && (
        <>
          <NativeSelect
            size="xs"
            label="Black below"
            data={optionsOf(choices.bitonal_methods)}
            value={own.bitonal_method}
            onChange={(event) =>
              onChange({
                bitonal_method: event.currentTarget.value as PictureTreatment['bitonal_method'],
              })
            }
          />
          {own.bitonal_method === 'fixed' && (
            <NumberField
              label="Darker than, of 255"
              value={own.threshold}
              least={1}
              most={255}
              empty="128"
              onKeep={(threshold) => onChange({ threshold: threshold ?? 128 })}
            />
          )}
        </>
      )}
      <NumberField
        label="Only pictures above, ppi"
        value={own.above_ppi}
        least={20}
        most={4800}
        empty="a little finer"
        onKeep={(above_ppi) => onChange({ above_ppi })}
      />
      <NumberField
        label="Scale to, %"
        value={own.scale_percent}
        least={1}
        most={100}
        empty="by ppi alone"
        onKeep={(scale_percent) => onChange({ scale_percent })}
      />
      <NumberField
        label="At least, pixels"
        value={own.smallest_px}
        least={1}
        most={20000}
        empty="any"
        onKeep={(smallest_px) => onChange({ smallest_px })}
      />
      <NumberField
        label="At most, pixels"
        value={own.largest_px}
        least={1}
        most={20000}
        empty="any"
        onKeep={(largest_px) => onChange({ largest_px })}
      />
      {formats.some(({ switches }) => switches.includes('cuts_hidden')) && (
        <Checkbox
          size="xs"
          className={classes.wide}
          label="Remove cropped parts of pictures for good"
          checked={own.cuts_hidden}
          onChange={(event) => onChange({ cuts_hidden: event.currentTarget.checked })}
        />
      )}
      <Checkbox
        size="xs"
        className={classes.wide}
        label="Keep small print readable (keeps more pixels in pictures with words)"
        checked={own.keeps_words}
        onChange={(event) => onChange({ keeps_words: event.currentTarget.checked })}
      />
      <fieldset className={classes.filters}>
        <legend>Filters, in this order</legend>
        {inOrder(choices.filters, own.filters).map(({ value: kind, title: label }) => {
          const strength = strengthOf(kind);
          const place = own.filters.findIndex((one) => one.kind === kind);
          return (
            <div key={kind} className={classes.filter}>
              <Checkbox
                size="xs"
                label={place < 0 ? label : `${place + 1}. ${label}`}
                checked={strength !== undefined}
                onChange={(event) => setFilter(kind, event.currentTarget.checked ? 0.5 : null)}
              />
              {place > 0 && (
                <ActionIcon
                  size="sm"
                  variant="subtle"
                  color="gray"
                  aria-label={`${label}: earlier`}
                  onClick={() => onChange({ filters: movedUp(own.filters, place) })}
                >
                  <IconArrowUp size={14} />
                </ActionIcon>
              )}
              {strength !== undefined && (
                <Slider
                  key={strength}
                  size="sm"
                  label={null}
                  thumbLabel={`${label}, strength`}
                  min={0}
                  max={1}
                  step={0.1}
                  defaultValue={strength}
                  onChangeEnd={(value) => setFilter(kind, value)}
                />
              )}
            </div>
          );
        })}
      </fieldset>
    </div>
  );
}

type Filters = PictureTreatment['filters'];

/** Filters in use as they follow each other, then those that are not. */
function inOrder(titles: Schemas['Choices']['filters'], filters: Filters) {
  const place = (kind: string) => {
    const at = filters.findIndex((one) => one.kind === kind);
    return at < 0 ? titles.length : at;
  };
  return [...titles].sort((one, other) => place(one.value) - place(other.value));
}

function movedUp(filters: Filters, at: number): Filters {
  const moved = filters[at];
  if (!moved) return filters;
  const rest = filters.filter((_, index) => index !== at);
  return [...rest.slice(0, at - 1), moved, ...rest.slice(at - 1)];
}
