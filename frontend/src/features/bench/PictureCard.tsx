import { Checkbox } from '@mantine/core';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { pagesText, sizeText } from '../../shared/sizes';
import { CLASS_NAMES } from './classes';
import classes from './PictureCard.module.css';

interface PictureCardProps {
  documentId: string;
  part: Schemas['SheetPart'];
  isChosen: boolean;
  onChoose: (isChosen: boolean) => void;
}

/** One picture: what it is, what it weighs, what will happen to it and why. */
export function PictureCard({ documentId, part, isChosen, onChoose }: PictureCardProps) {
  const [isMissing, setIsMissing] = useState(false);
  const { picture } = part;
  if (!picture) return null;
  const address = `/api/documents/${documentId}/thumbnail?part=${encodeURIComponent(part.id)}`;
  const isKept = part.decision === 'keep';
  return (
    <div className={classes.root} data-chosen={isChosen || undefined}>
      <div className={classes.frame}>
        <Checkbox
          className={classes.tick}
          size="sm"
          aria-label={`Choose ${part.name}`}
          checked={isChosen}
          onChange={(event) => onChoose(event.currentTarget.checked)}
        />
        {isMissing ? (
          <span className={classes.missing}>cannot be drawn</span>
        ) : (
          <img
            src={address}
            loading="lazy"
            alt={`${part.name}, ${pagesText(picture.pages)}`}
            onError={() => setIsMissing(true)}
          />
        )}
      </div>
      <strong>
        {sizeText(part.bytes)}
        {!isKept && part.bytes_then < part.bytes && ` → ${sizeText(part.bytes_then)}`}
      </strong>
      <span>
        {CLASS_NAMES[picture.picture_class] ?? picture.picture_class}, {pagesText(picture.pages, 3)}
      </span>
      <span>
        {picture.width_px} × {picture.height_px}
        {picture.ppi !== null && `, ${Math.round(picture.ppi)} ppi`}
      </span>
      <span>
        {picture.coding}, {picture.colour}
        {picture.is_inline && ', within drawing'}
      </span>
      <span className={classes.reason} data-kept={isKept || undefined}>
        {part.reason}
      </span>
    </div>
  );
}
