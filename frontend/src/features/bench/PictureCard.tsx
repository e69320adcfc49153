import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { pagesText, sizeText } from '../../shared/sizes';
import classes from './PictureCard.module.css';

interface PictureCardProps {
  documentId: string;
  part: Schemas['SheetPart'];
}

const CLASS_NAMES: Record<string, string> = {
  photo: 'photo',
  graphic: 'graphic',
  'page-scan': 'page scan',
  'two-tone': 'two-tone',
  stencil: 'stencil',
};

/** One picture: what it is, what it weighs, what will happen to it and why. */
export function PictureCard({ documentId, part }: PictureCardProps) {
  const [isMissing, setIsMissing] = useState(false);
  const { picture } = part;
  if (!picture) return null;
  const address = `/api/documents/${documentId}/thumbnail?part=${encodeURIComponent(part.id)}`;
  const isKept = part.decision === 'keep';
  return (
    <li className={classes.root}>
      <div className={classes.frame}>
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
      </span>
      <span className={classes.reason} data-kept={isKept || undefined}>
        {part.reason}
      </span>
    </li>
  );
}
