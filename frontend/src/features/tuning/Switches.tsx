import { Switch } from '@mantine/core';

import type { Schemas } from '../../api/client';
import { sizeText } from '../../shared/sizes';
import type { Treatment } from './classes';
import classes from './FineTuning.module.css';
import { NumberField } from './NumberField';
import { type Satchel, savingsOf } from '../satchel';

interface SwitchesProps {
  satchel: Satchel;
  /** Formats of the documents of the satchel. */
  formats: Schemas['Format'][];
  extras: Schemas['Extra'][];
  onTune: (treatment: Treatment) => void;
}

const SWITCHES: Schemas['SwitchEnum'][] = [
  'fonts.subset',
  'fonts.drops_standard',
  'fonts.drops_embedded',
  'drawing',
  'is_linearized',
  'lightens_embedded',
];

/** Fonts, drawing and extras on and off, each with what it is worth on these documents. */
export function Switches({ satchel, formats, extras, onTune }: SwitchesProps) {
  const { wanted } = satchel;
  const savings = savingsOf(satchel);
  const isOffered = (name: Schemas['SwitchEnum']) =>
    formats.some(({ switches }) => switches.includes(name));
  const hasAny = SWITCHES.some(isOffered);
  const here = extras.filter(({ kind }) => (savings[`extra.${kind}`] ?? 0) > 0);
  const dropped = new Set<string>(wanted.dropped_extras);
  const drop = (kind: string, isDropped: boolean) => {
    if (isDropped) dropped.add(kind);
    else dropped.delete(kind);
    onTune({ ...wanted, dropped_extras: [...dropped] as Treatment['dropped_extras'] });
  };
  const setFonts = (change: Partial<Treatment['fonts']>) =>
    onTune({ ...wanted, fonts: { ...wanted.fonts, ...change } });
  const setDrawing = (change: Partial<Treatment['drawing']>) =>
    onTune({ ...wanted, drawing: { ...wanted.drawing, ...change } });
  const pen = wanted.drawing.tolerance_pt;
  return (
    <>
      {hasAny && <h3 className={classes.head}>Fonts and drawing</h3>}
      <ul className={classes.switches}>
        {isOffered('fonts.subset') && (
          <Line
            title="Subset fonts to the letters in use"
            text="Whole fonts become parts of fonts; nobody can type with them any more."
            worth={savings['fonts.subset']}
            isOn={wanted.fonts.subset}
            onSwitch={(subset) => setFonts({ subset })}
          />
        )}
        {isOffered('fonts.drops_standard') && (
          <Line
            title="Remove the standard fonts"
            text="Readers bring their own; letters may look a little different."
            worth={savings['fonts.drops_standard']}
            isOn={wanted.fonts.drops_standard}
            onSwitch={(drops_standard) => setFonts({ drops_standard })}
          />
        )}
        {isOffered('fonts.drops_embedded') && (savings['fonts.drops_embedded'] ?? 0) > 0 && (
          <Line
            title="Remove fonts embedded in text documents"
            text="Readers show the text in fonts of their own; lines may break elsewhere."
            worth={savings['fonts.drops_embedded']}
            isRisky
            isOn={wanted.fonts.drops_embedded}
            onSwitch={(drops_embedded) => setFonts({ drops_embedded })}
          />
        )}
        {isOffered('lightens_embedded') && (
          <Line
            title="Lighten embedded documents too"
            text="Files inside a text document are treated as it is, one level deep."
            worth={0}
            isOn={wanted.lightens_embedded}
            onSwitch={(lightens_embedded) => onTune({ ...wanted, lightens_embedded })}
          />
        )}
        {isOffered('drawing') && (
          <Line
            title="Simplify pen strokes"
            text="Handwriting drawn with far more points than anybody can see."
            worth={savings.drawing}
            isOn={pen !== null}
            onSwitch={(isOn) =>
              setDrawing({ tolerance_pt: isOn ? 0.1 : null, constant_width: false })
            }
          />
        )}
        {isOffered('drawing') && pen !== null && (
          <li className={classes.pen}>
            <NumberField
              label="Tolerance, 1/100 pt"
              value={pen * 100}
              least={1}
              most={200}
              empty="10"
              onKeep={(value) => setDrawing({ tolerance_pt: (value ?? 10) / 100 })}
            />
            <Switch
              size="xs"
              label="One width for each stroke, without pressure"
              checked={wanted.drawing.constant_width}
              onChange={(event) => setDrawing({ constant_width: event.currentTarget.checked })}
            />
            <Switch
              size="xs"
              label="Simplify other paths too"
              checked={wanted.drawing.ordinary_too}
              onChange={(event) => setDrawing({ ordinary_too: event.currentTarget.checked })}
            />
          </li>
        )}
        {isOffered('is_linearized') && (
          <Line
            title="Optimise for web view (linearise)"
            text="Pages are laid in the order of reading, for files behind a slow line."
            worth={0}
            isOn={wanted.is_linearized}
            onSwitch={(is_linearized) => onTune({ ...wanted, is_linearized })}
          />
        )}
      </ul>
      <h3 className={classes.head}>Extras to remove</h3>
      {here.length === 0 && <p className={classes.none}>None are in these documents.</p>}
      <ul className={classes.switches}>
        {here.map(({ kind, title, purpose, loss, is_safe }) => (
          <Line
            key={kind}
            title={title}
            text={`${purpose} Lost: ${lowered(loss)}`}
            isRisky={!is_safe}
            worth={savings[`extra.${kind}`]}
            isOn={dropped.has(kind)}
            onSwitch={(isOn) => drop(kind, isOn)}
          />
        ))}
      </ul>
    </>
  );
}

interface LineProps {
  title: string;
  text: string;
  worth: number | undefined;
  isOn: boolean;
  isRisky?: boolean;
  onSwitch: (isOn: boolean) => void;
}

function Line({ title, text, worth, isOn, isRisky, onSwitch }: LineProps) {
  return (
    <li className={classes.line} data-risky={isRisky || undefined}>
      <Switch
        size="sm"
        label={title}
        description={text}
        checked={isOn}
        onChange={(event) => onSwitch(event.currentTarget.checked)}
      />
      <span className={classes.worth}>{worth ? `−${sizeText(worth)}` : '–'}</span>
    </li>
  );
}

function lowered(words: string): string {
  return words.charAt(0).toLowerCase() + words.slice(1);
}
