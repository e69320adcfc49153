import { ActionIcon, Loader, SegmentedControl } from '@mantine/core';
import { useMediaQuery } from '@mantine/hooks';
import { IconMinus, IconPlus } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';

import { choicesQuery } from '../../api/choices';
import type { Schemas } from '../../api/client';
import { ErrorNote } from '../../shared/ErrorNote';
import { sizeText } from '../../shared/sizes';
import { useKeys } from '../../shared/useKeys';
import { benchQueries, CURRENT, type Document, type Satchel, useSatchelChanges } from '../satchel';
import { stripQueries } from './queries';
import {
  evenEdges,
  firstSettings,
  isInUse,
  type PictureClass,
  ORIGINAL,
  type Scope,
  type Setting,
  titleOf,
  choiceFor,
  type View,
  ZOOMS,
} from './settings';
import { StripColumn } from './StripColumn';
import { StripView } from './StripView';
import classes from './TestStrip.module.css';

const WHOLE: View = { x: 0.5, y: 0.5, zoom: 1 };

/** One picture of a document in several settings, before any copy is made. */
export function TestStrip() {
  const { satchelId = '', documentId = '' } = useParams();
  const satchel = useQuery(benchQueries.satchel(satchelId, false));
  const choices = useQuery(choicesQuery());
  const isNarrow = useMediaQuery('(max-width: 48em)', undefined, {
    getInitialValueInEffect: false,
  });
  const failure = satchel.error ?? choices.error;
  if (failure) return <Alone>{failure.message}</Alone>;
  if (!satchel.data || !choices.data) {
    return <Loader role="status" className={classes.wait} aria-label="Opening the test strip" />;
  }
  const document = satchel.data.documents.find(({ id }) => id === documentId);
  if (!document) return <Alone>This document is not in the satchel any more.</Alone>;
  return (
    <OpenStrip
      key={isNarrow ? 'narrow' : 'wide'}
      satchel={satchel.data}
      document={document}
      choices={choices.data}
      count={isNarrow ? 2 : 4}
    />
  );
}

function Alone({ children }: { children: string }) {
  return (
    <div className={classes.alone}>
      <ErrorNote>{children}</ErrorNote>
    </div>
  );
}

interface OpenStripProps {
  satchel: Satchel;
  document: Document;
  choices: Schemas['Choices'];
  /** So many strips. */
  count: number;
}

function OpenStrip({ satchel, document, choices, count }: OpenStripProps) {
  const [params, setParams] = useSearchParams();
  const changes = useSatchelChanges(satchel.id);
  const [settings, setSettings] = useState(() => firstSettings(satchel, count));
  const [edges, setEdges] = useState(() => evenEdges(count));
  const [only, setOnly] = useState<number | null>(null);
  const [view, setView] = useState(WHOLE);
  const [scope, setScope] = useState<Scope>('picture');

  const asked = [satchel.wanted, satchel.is_fitted, document.exceptions];
  const lightest = settings.filter(({ base }) => base !== ORIGINAL).at(-1)?.base ?? CURRENT;
  const stakes = useQuery(stripQueries.stakes(document.id, lightest, asked));
  const sheet = useQuery(benchQueries.sheet(document.id, asked));
  const part = params.get('part') ?? stakes.data?.[0]?.part ?? '';
  const picture = sheet.data?.parts.find(({ id }) => id === part)?.picture;
  const strips = useQuery({
    ...stripQueries.strips(document.id, part, settings, asked),
    enabled: part !== '',
  });

  const turnTo = (id: string) => {
    setParams({ part: id }, { replace: true });
    setView(WHOLE);
  };
  const next = () => {
    const all = stakes.data ?? [];
    const after = all[(all.findIndex((one) => one.part === part) + 1) % all.length];
    if (after) turnTo(after.part);
  };
  const zoomBy = (step: number) => {
    const at = Math.max(0, Math.min(ZOOMS.length - 1, ZOOMS.indexOf(view.zoom) + step));
    setView({ ...view, zoom: ZOOMS[at] ?? 1 });
  };
  const show = (at: number) => {
    if (at < settings.length) setOnly(only === at ? null : at);
  };
  useKeys({
    n: next,
    '+': () => zoomBy(1),
    '=': () => zoomBy(1),
    '-': () => zoomBy(-1),
    Escape: () => setOnly(null),
    ...Object.fromEntries(settings.map((_, at) => [String(at + 1), () => show(at)])),
  });

  const pictureClass = picture?.picture_class as PictureClass | undefined;
  const use = (setting: Setting) => {
    if (!pictureClass) return;
    const at = { satchel, document, presets: choices.presets, part, pictureClass };
    const { body, exceptions } = choiceFor(setting, scope, at);
    if (exceptions) changes.except.mutate({ id: document.id, exceptions });
    if (body) changes.change.mutate(body);
  };
  const titles = settings.map((setting) => titleOf(setting, choices.presets));
  const options = [
    { value: ORIGINAL, label: 'Original' },
    { value: CURRENT, label: 'Present settings' },
    ...choices.presets.map(({ name, title }) => ({ value: name, label: title })),
  ];
  const className = choices.picture_classes.find(({ value }) => value === pictureClass)?.title;
  const failure = strips.error ?? stakes.error ?? changes.change.error ?? changes.except.error;
  const stake = stakes.data?.find((one) => one.part === part);
  const limit = satchel.limit_file_bytes;
  return (
    <div className={classes.root}>
      <header className={classes.head}>
        <div className={classes.what}>
          <Link to={`/satchels/${satchel.id}`} className={classes.back}>
            {satchel.name}
          </Link>
          <h1 className={classes.title}>Test strip</h1>
          <span className={classes.name}>{document.name}</span>
        </div>
        <div className={classes.tools}>
          <ActionIcon variant="default" aria-label="Zoom out" onClick={() => zoomBy(-1)}>
            <IconMinus size={15} />
          </ActionIcon>
          <span aria-live="polite">{view.zoom}×</span>
          <ActionIcon variant="default" aria-label="Zoom in" onClick={() => zoomBy(1)}>
            <IconPlus size={15} />
          </ActionIcon>
        </div>
      </header>
      {failure && <Alone>{failure.message}</Alone>}
      <div className={classes.inner}>
        <ul className={classes.stakes} aria-label="Pictures, what is most at stake first">
          {stakes.data?.map((one) => (
            <li key={one.part}>
              <button
                type="button"
                aria-pressed={one.part === part}
                onClick={() => turnTo(one.part)}
              >
                {chipText(one, choices.picture_classes)}
              </button>
            </li>
          ))}
        </ul>
        {strips.data ? (
          <StripView
            documentId={document.id}
            name={stake?.name ?? 'The picture'}
            strips={strips.data}
            titles={titles}
            edges={edges}
            only={only}
            view={view}
            onEdges={setEdges}
            onView={setView}
          />
        ) : (
          <div className={classes.coming}>
            {part === '' && stakes.data ? (
              <p>This document has no pictures to compare.</p>
            ) : (
              <Loader role="status" aria-label="Coding the picture in each setting" />
            )}
          </div>
        )}
        <p className={classes.hint}>
          <span>
            {only === null
              ? 'One picture, a setting in each strip. Drag the picture, or the edges.'
              : `${titles[only] ?? ''} over all.`}{' '}
            No copy is made here.
          </span>
          <span className={classes.keys}>
            <kbd>1</kbd>–<kbd>{settings.length}</kbd> one setting over all <kbd>N</kbd> next picture{' '}
            <kbd>+</kbd> <kbd>−</kbd> zoom
          </span>
        </p>
        <div className={classes.columns} data-count={count}>
          {settings.map((setting, at) => (
            <StripColumn
              key={at}
              number={at + 1}
              setting={setting}
              strip={strips.isPlaceholderData ? null : (strips.data?.[at] ?? null)}
              title={titles[at] ?? ''}
              options={options}
              documentBytes={document.size_bytes}
              scale={document.size_bytes}
              limit={limit}
              isInUse={isInUse(setting, satchel, document, part)}
              isShown={only === at}
              onShow={() => show(at)}
              onSetting={(changed) =>
                setSettings(settings.map((one, other) => (other === at ? changed : one)))
              }
              onUse={() => use(setting)}
            />
          ))}
        </div>
        <div className={classes.scope}>
          <span id="scope">Use it for</span>
          <SegmentedControl
            size="xs"
            aria-labelledby="scope"
            value={scope}
            onChange={(value) => setScope(value)}
            data={[
              { value: 'picture', label: 'this picture' },
              {
                value: 'class',
                label: className ? `all: ${className.toLowerCase()}` : 'its class',
              },
              { value: 'documents', label: 'everything here' },
            ]}
          />
          {limit !== null && <span>Limit {sizeText(limit)}: heavier documents are red.</span>}
        </div>
      </div>
    </div>
  );
}

function chipText(stake: Schemas['Stake'], classesOf: { value: string; name: string }[]): string {
  const name = classesOf.find(({ value }) => value === stake.picture_class)?.name ?? '';
  const page = stake.page === null ? stake.name : `p. ${stake.page}`;
  const risk = stake.has_words
    ? ': words'
    : stake.score === null
      ? ''
      : `: ${Math.round(stake.score)}`;
  return `${name.charAt(0).toUpperCase()}${name.slice(1)}, ${page}${risk}`;
}
