import { Button } from '@mantine/core';
import {
  IconFileSpreadsheet,
  IconFileText,
  IconPhoto,
  IconPresentation,
  IconScan,
} from '@tabler/icons-react';
import type { ReactNode } from 'react';
import { Link } from 'react-router';

import { Beam } from '../../shared/Beam';
import classes from './Welcome.module.css';

interface WelcomeProps {
  chooseButton: ReactNode;
  isOpening: boolean;
  onTry: () => void;
}

const KINDS = [
  { icon: IconFileText, title: 'PDF', text: 'reports, scans, forms' },
  { icon: IconFileText, title: 'Text documents', text: 'docx, odt, doc' },
  { icon: IconPresentation, title: 'Slides', text: 'pptx, odp, ppt' },
  { icon: IconFileSpreadsheet, title: 'Workbooks', text: 'xlsx, ods, xls' },
  { icon: IconPhoto, title: 'Pictures', text: 'jpg, png, tif, heic, gif, bmp, ora' },
  { icon: IconScan, title: 'Paper', text: 'by the intake, from a scanner' },
];

const STEPS = [
  { word: 'Weigh', text: 'See what in a document is heavy, to the byte.', now: 100, then: null },
  { word: 'Choose', text: 'Where is it going, and how gently?', now: 100, then: 62 },
  { word: 'Make', text: 'Lighter copies, each proved against its original.', now: 100, then: 24 },
];

/** The shelf of somebody who has nothing on it yet: what can be brought, and what comes of it. */
export function Welcome({ chooseButton, isOpening, onTry }: WelcomeProps) {
  return (
    <section className={classes.root}>
      <h2 className={classes.title}>Drop a heavy file anywhere here</h2>
      <p className={classes.text}>
        A satchel opens with it, says what in it is heavy, and makes lighter copies. The originals
        are kept as they are and never written to.
      </p>
      <div className={classes.actions}>
        {chooseButton}
        <Button variant="default" loading={isOpening} onClick={onTry}>
          Try it on a sample
        </Button>
      </div>
      <ul className={classes.kinds} aria-label="What can be brought">
        {KINDS.map(({ icon: Icon, title, text }) => (
          <li key={title}>
            <Icon size={22} stroke={1.6} aria-hidden />
            <span>
              <b>{title}</b>
              <span>{text}</span>
            </span>
          </li>
        ))}
      </ul>
      <ol className={classes.steps}>
        {STEPS.map(({ word, text, now, then }) => (
          <li key={word}>
            <b>{word}</b>
            <Beam now={now} then={then} scale={100} label={word} />
            <span>{text}</span>
          </li>
        ))}
      </ol>
      <p className={classes.more}>
        Paper on the desk? Begin at the <Link to="/intake">intake</Link>. Every preset and verdict
        is explained in the <Link to="/guide">guide</Link>.
      </p>
    </section>
  );
}
