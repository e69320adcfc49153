import { Button, NativeSelect } from '@mantine/core';

import { Beam } from '../../shared/Beam';
import { sizeText } from '../../shared/sizes';
import { NumberField } from '../tuning';
import { isChanged, ORIGINAL, type Setting, type Strip } from './settings';
import classes from './TestStrip.module.css';

interface StripColumnProps {
  /** Its key on the keyboard, from 1. */
  number: number;
  setting: Setting;
  /** Null while it is being coded. */
  strip: Strip | null;
  title: string;
  /** Settings to choose from. */
  options: { value: string; label: string }[];
  documentBytes: number;
  /** Bytes of the longest beam. */
  scale: number;
  limit: number | null;
  isInUse: boolean;
  isShown: boolean;
  onShow: () => void;
  onSetting: (setting: Setting) => void;
  onUse: () => void;
}

/** What stands under one strip: its setting, weights and looks, and the button that uses it. */
export function StripColumn(props: StripColumnProps) {
  const { number, setting, strip, title, limit, onSetting } = props;
  const isOver = strip !== null && limit !== null && strip.document_bytes > limit;
  const isOriginal = setting.base === ORIGINAL;
  return (
    <section className={classes.column} aria-label={`Strip ${number}: ${title}`}>
      <div className={classes.which}>
        <button
          type="button"
          className={classes.key}
          aria-pressed={props.isShown}
          aria-label={`${number}: show ${title} over all`}
          onClick={props.onShow}
        >
          {number}
        </button>
        <NativeSelect
          size="xs"
          className={classes.choice}
          aria-label={`Setting of strip ${number}`}
          value={setting.base}
          data={props.options}
          onChange={(event) => onSetting({ base: event.currentTarget.value })}
        />
      </div>
      <Beam
        now={props.documentBytes}
        then={strip?.document_bytes ?? null}
        scale={props.scale}
        isOver={isOver}
        label={
          strip
            ? `The document: ${sizeText(strip.document_bytes)}${isOver ? ', over the limit' : ''}`
            : 'Not known yet'
        }
      />
      {strip ? (
        <dl className={classes.facts}>
          <div>
            <dt>document</dt>
            <dd>
              {isOriginal ? '' : '~ '}
              {sizeText(strip.document_bytes)}
            </dd>
          </div>
          <div>
            <dt>picture</dt>
            <dd>{sizeText(strip.bytes)}</dd>
          </div>
        </dl>
      ) : (
        <p className={classes.waiting} role="status">
          Coding the picture …
        </p>
      )}
      {strip && <p className={classes.how}>{howOf(strip, isOriginal)}</p>}
      {strip && <Looks strip={strip} />}
      {!isOriginal && (
        <div className={classes.values}>
          <NumberField
            label="ppi"
            value={setting.finest_ppi ?? null}
            least={20}
            most={2400}
            empty={strip?.ppi ? String(Math.round(strip.ppi)) : 'own'}
            onKeep={(finest_ppi) => onSetting({ ...setting, finest_ppi })}
          />
          <NumberField
            label="quality"
            value={setting.quality ?? null}
            least={1}
            most={100}
            empty={strip?.quality ? String(strip.quality) : 'own'}
            onKeep={(quality) => onSetting({ ...setting, quality })}
          />
          {isChanged(setting) && (
            <Button
              size="compact-xs"
              variant="subtle"
              onClick={() => onSetting({ base: setting.base })}
            >
              Reset
            </Button>
          )}
        </div>
      )}
      <Button
        size="compact-sm"
        variant={props.isInUse ? 'filled' : 'default'}
        disabled={strip === null}
        aria-pressed={props.isInUse}
        onClick={props.isInUse ? undefined : props.onUse}
      >
        {props.isInUse ? 'In use' : 'Use it'}
      </Button>
    </section>
  );
}

/** Resolution and quality, and the reason. */
function howOf({ ppi, quality, reason }: Strip, isOriginal: boolean): string {
  const facts = [
    ppi === null ? '' : `${Math.round(ppi)} ppi`,
    quality === null ? '' : `quality ${quality}`,
    isOriginal ? 'as it is' : reason,
  ];
  return facts.filter(Boolean).join(', ');
}

function Looks({ strip }: { strip: Strip }) {
  const { score, words, lost } = strip;
  return (
    <>
      <p className={classes.score}>
        {score === null ? 'Looks different on purpose: no score' : `${Math.round(score)} of 100`}
      </p>
      {lost.length > 0 && (
        <p className={classes.unreadable}>
          {lost.length} of {words} words cannot be read
        </p>
      )}
    </>
  );
}
