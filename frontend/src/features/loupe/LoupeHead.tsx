import { ActionIcon, Button, Menu, SegmentedControl } from '@mantine/core';
import { IconDownload, IconMinus, IconPlus } from '@tabler/icons-react';
import { Link } from 'react-router';

import { changeText, sizeText } from '../../shared/sizes';
import classes from './LoupeHead.module.css';
import type { Proof } from './places';

interface LoupeHeadProps {
  proof: Proof;
  side: 'original' | 'copy';
  zoom: number;
  showsHeat: boolean;
  onFlip: () => void;
  onZoom: (step: number) => void;
  onHeat: () => void;
  onWorst: () => void;
}

/** The files that are compared, and the actions on them; each has its key. */
export function LoupeHead(props: LoupeHeadProps) {
  const { proof, side, zoom, showsHeat } = props;
  return (
    <header className={classes.root}>
      <div className={classes.what}>
        <Link to={`/satchels/${proof.satchel}`} className={classes.back}>
          {proof.satchel_name}
        </Link>
        <h1 className={classes.title}>{proof.name}</h1>
        <span className={classes.weights}>
          {sizeText(proof.bytes_before)} → {sizeText(proof.bytes_after)} (
          {changeText(proof.bytes_before, proof.bytes_after)})
        </span>
      </div>
      <div className={classes.tools}>
        <SegmentedControl
          size="sm"
          aria-label="Which is shown"
          data={['original', 'copy']}
          value={side}
          onChange={props.onFlip}
        />
        <Button
          size="compact-md"
          variant={showsHeat ? 'light' : 'default'}
          aria-pressed={showsHeat}
          onClick={props.onHeat}
          title="Key D"
        >
          Differences
        </Button>
        <Button size="compact-md" variant="default" onClick={props.onWorst} title="Key W">
          Worst place
        </Button>
        <span className={classes.zoom}>
          <ActionIcon variant="default" aria-label="Zoom out" onClick={() => props.onZoom(-1)}>
            <IconMinus size={15} />
          </ActionIcon>
          <span aria-live="polite">{zoom}×</span>
          <ActionIcon variant="default" aria-label="Zoom in" onClick={() => props.onZoom(1)}>
            <IconPlus size={15} />
          </ActionIcon>
        </span>
        <Menu position="bottom-end">
          <Menu.Target>
            <Button size="compact-md" variant="default">
              Save the proof
            </Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item component="a" href={`/api/copies/${proof.copy_id}/proof.pdf`}>
              As one page, PDF
            </Menu.Item>
            <Menu.Item component="a" href={`/api/copies/${proof.copy_id}/proof.json`}>
              With all figures, JSON
            </Menu.Item>
          </Menu.Dropdown>
        </Menu>
        <Button
          component="a"
          size="compact-md"
          href={`/api/copies/${proof.copy_id}/file`}
          leftSection={<IconDownload size={16} />}
        >
          Download copy
        </Button>
      </div>
    </header>
  );
}
