import { Checkbox } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { choicesQuery } from '../../../api/choices';
import type { Schemas } from '../../../api/client';
import { pagesText, sizeText } from '../../../shared/sizes';
import classes from './PictureCard.module.css';

type Picture = NonNullable<Schemas['SheetPart']['picture']>;

const CM_PER_POINT = 2.54 / 72;

/** The pages that show it; in a document without pages how long it is, and by whose word. */
function placeOf(picture: Picture): string {
  if (picture.pages.length > 0 || !picture.shown_pt) return pagesText(picture.pages, 3);
  const cm = (Math.max(...picture.shown_pt) * CM_PER_POINT).toFixed(1).replace('.0', '');
  return picture.has_assumed_size ? `taken as ${cm} cm long, as on a page` : `${cm} cm long`;
}

interface PictureCardProps {
  satchelId: string;
  documentId: string;
  part: Schemas['SheetPart'];
  isChosen: boolean;
  onChoose: (isChosen: boolean) => void;
}

/** One picture: what it is, what it weighs, what will happen to it and why. */
export function PictureCard({ satchelId, documentId, part, isChosen, onChoose }: PictureCardProps) {
  const [isMissing, setIsMissing] = useState(false);
  const { data: choices } = useQuery(choicesQuery());
  const { picture } = part;
  if (!picture) return null;
  const address = `/api/documents/${documentId}/thumbnail?part=${encodeURIComponent(part.id)}`;
  const ownClass = choices?.picture_classes.find(({ value }) => value === picture.picture_class);
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
            alt={`${part.name}, ${placeOf(picture)}`}
            onError={() => setIsMissing(true)}
          />
        )}
      </div>
      <strong>
        {sizeText(part.bytes)}
        {!isKept && part.bytes_then < part.bytes && ` → ${sizeText(part.bytes_then)}`}
      </strong>
      {picture.near && (
        <span className={classes.near} title={picture.near}>
          near “{picture.near}”
        </span>
      )}
      <span>
        {ownClass?.name ?? picture.picture_class}, {placeOf(picture)}
      </span>
      <span>
        {picture.width_px} × {picture.height_px}
        {picture.ppi !== null && `, ${Math.round(picture.ppi)}\u00a0ppi`}
      </span>
      <span>
        {picture.coding}, {picture.colour}
        {picture.is_inline && ', within drawing'}
      </span>
      <span className={classes.reason} data-kept={isKept || undefined}>
        {part.reason}
      </span>
      <Link
        className={classes.strip}
        to={`/satchels/${satchelId}/strip/${documentId}?part=${encodeURIComponent(part.id)}`}
      >
        Test strip
      </Link>
    </div>
  );
}
