import { ActionIcon, Box } from '@mantine/core';
import { IconChevronLeft, IconChevronRight } from '@tabler/icons-react';
import { useState } from 'react';

import { Beam } from '../../shared/Beam';
import { countText, sizeText } from '../../shared/sizes';
import classes from './KeepPanel.module.css';
import { onHand, weightsOf, worstFirst } from './pages';
import type { IntakeData } from './queries';

interface KeepPanelProps {
  intake: IntakeData;
  inLayers: boolean;
  onChoose: (inLayers: boolean) => void;
}

/** Both ways of keeping the pages side by side: what they weigh, and where they differ most. */
export function KeepPanel({ intake, inLayers, onChoose }: KeepPanelProps) {
  const weights = weightsOf(intake);
  const pages = onHand(intake);
  if (pages.length === 0) return null;
  const untried = pages.length - weights.known;
  const layersText =
    untried > 0
      ? `${countText(untried, 'page')} still to be tried.`
      : 'Paper, strokes and pictures apart. Text keeps the resolution of the scan.';
  const ways = [
    {
      isLayers: false,
      title: 'As it comes',
      bytes: weights.asItComes,
      text: 'Every page one picture, to be made lighter on the bench.',
    },
    { isLayers: true, title: 'In layers', bytes: weights.inLayers, text: layersText },
  ];
  return (
    <section className={classes.root} aria-label="How is it kept?">
      <h2>How is it kept?</h2>
      <div className={classes.ways} role="radiogroup" aria-label="How is it kept?">
        {ways.map(({ isLayers, title, bytes, text }) => (
          <Box
            key={title}
            component="label"
            className={classes.way}
            mod={{ chosen: isLayers === inLayers }}
          >
            <span className={classes.wayHead}>
              <input
                type="radio"
                name="kept"
                checked={isLayers === inLayers}
                onChange={() => onChoose(isLayers)}
              />
              <span>{title}</span>
              <strong>
                {isLayers && untried > 0 ? 'about ' : ''}
                {sizeText(bytes)}
              </strong>
            </span>
            <Beam
              now={weights.asItComes}
              then={bytes}
              scale={weights.asItComes}
              label={`${title}, ${sizeText(bytes)} of ${sizeText(weights.asItComes)}`}
            />
            <span className={classes.text}>
              {text}
              {isLayers &&
                weights.whole > 0 &&
                ` ${countText(weights.whole, 'page')} stay one picture, lighter all the same.`}
            </span>
          </Box>
        ))}
      </div>
      <WorstPlace intake={intake} />
      <p className={classes.text}>
        The pages go into a satchel of their own as they came. In layers, its copy is made and
        proved there.
      </p>
    </section>
  );
}

function WorstPlace({ intake }: { intake: IntakeData }) {
  const [at, setAt] = useState(0);
  const worst = worstFirst(intake);
  const page = worst[Math.min(at, worst.length - 1)];
  if (!page?.layers) return null;
  const number = onHand(intake).findIndex(({ id }) => id === page.id) + 1;
  const { score } = page.layers;
  return (
    <>
      <div className={classes.worstHead}>
        <h2>The worst place, page {number}</h2>
        <ActionIcon
          variant="subtle"
          color="gray"
          aria-label="A worse page"
          disabled={at === 0}
          onClick={() => setAt(at - 1)}
        >
          <IconChevronLeft size={18} />
        </ActionIcon>
        <ActionIcon
          variant="subtle"
          color="gray"
          aria-label="The next worst page"
          disabled={at >= worst.length - 1}
          onClick={() => setAt(at + 1)}
        >
          <IconChevronRight size={18} />
        </ActionIcon>
      </div>
      <div className={classes.places}>
        {(
          [
            ['as-it-came', 'as it comes'],
            ['in-layers', score === null ? 'in layers' : `in layers, ${Math.round(score)} of 100`],
          ] as const
        ).map(([side, label]) => (
          <figure key={side}>
            <img src={`/api/intake-pages/${page.id}/worst?side=${side}`} alt="" />
            <figcaption>{label}</figcaption>
          </figure>
        ))}
      </div>
    </>
  );
}
