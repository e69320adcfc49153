import { Box, Button } from '@mantine/core';
import {
  IconAlertTriangle,
  IconCircleMinus,
  IconEqual,
  IconEye,
  IconPlayerStop,
  IconWaveSine,
} from '@tabler/icons-react';
import type { ReactNode } from 'react';

import { Explain } from '../../guide';
import { type Document, type SatchelChanges } from '../../satchel';
import classes from './VerdictMark.module.css';

type Copy = NonNullable<Document['copy']>;

interface VerdictMarkProps {
  copy: Copy;
  document: Document;
  changes: SatchelChanges;
}

/** The verdict on a copy: a sign, a word, and the reason. */
export function VerdictMark({ copy, document, changes }: VerdictMarkProps) {
  const { icon, word, tone } = markOf(copy);
  const reasons = copy.error ? [copy.error.message] : copy.reasons;
  return (
    <Box className={classes.root} mod={{ tone }}>
      <span className={classes.word}>
        {icon}
        {word}
      </span>
      <span className={classes.reasons}>
        {!copy.is_current && 'the copy made before your last choices: '}
        {copy.is_current && copy.is_carried_over && 'unchanged since an earlier run: '}
        {reasons.slice(0, 3).join('; ')}
      </span>
      {copy.state === 'done' && copy.verdict && (
        <Explain chapter="verdicts" name={copy.verdict} title={word} />
      )}
      {copy.error?.code === 'signed' && (
        <Button
          size="compact-sm"
          variant="default"
          onClick={() => changes.start.mutate({ may_end_signature: true })}
        >
          Make a copy without the signature
        </Button>
      )}
      {copy.error && copy.error.code !== 'signed' && (
        <Button
          size="compact-sm"
          variant="default"
          onClick={() => changes.takeOut.mutate(document.id)}
        >
          Remove
        </Button>
      )}
    </Box>
  );
}

function markOf(copy: Copy): { icon: ReactNode; word: string; tone: string } {
  if (copy.state === 'failed') {
    return { icon: <IconAlertTriangle size={16} />, word: 'No copy', tone: 'rust' };
  }
  if (copy.state === 'cancelled') {
    return { icon: <IconPlayerStop size={16} />, word: 'Cancelled', tone: 'soft' };
  }
  if (copy.state === 'none') {
    return { icon: <IconCircleMinus size={16} />, word: 'No copy', tone: 'soft' };
  }
  return markOfVerdict(copy);
}

/** The sign, the word and the tone of a verdict. */
export function markOfVerdict(proved: Pick<Copy, 'verdict' | 'verdict_title'>): {
  icon: ReactNode;
  word: string;
  tone: string;
} {
  const word = proved.verdict_title;
  if (proved.verdict === 'same') return { icon: <IconEqual size={16} />, word, tone: 'leather' };
  if (proved.verdict === 'close') {
    return { icon: <IconWaveSine size={16} />, word, tone: 'leather' };
  }
  return { icon: <IconEye size={16} />, word, tone: 'rust' };
}
