import { Box, Button, Loader } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import type { Schemas } from '../../api/client';
import { ErrorNote } from '../../shared/ErrorNote';
import { sizeText } from '../../shared/sizes';
import { PictureCard } from './PictureCard';
import { benchQueries } from './queries';
import type { Document } from './satchel';
import classes from './WeightSheet.module.css';

type Kind = Schemas['SheetKind'];
type Part = Schemas['SheetPart'];

interface WeightSheetProps {
  document: Document;
  preset: string;
}

const KIND_NAMES: Record<Kind['kind'], string> = {
  picture: 'Pictures',
  font: 'Fonts',
  drawing: 'Page drawing',
  structure: 'Structure',
  extra: 'Extras',
};
const AT_ONCE = 24;

/** What is heavy in one document: kinds, then pictures, then the other parts. */
export function WeightSheet({ document, preset }: WeightSheetProps) {
  const isMeasured = document.copy?.state === 'done' && document.copy.preset === preset;
  const sheet = useQuery(benchQueries.sheet(document.id, preset, isMeasured));
  const [shown, setShown] = useState(AT_ONCE);
  if (sheet.isError) return <ErrorNote>{sheet.error.message}</ErrorNote>;
  if (!sheet.data)
    return <Loader size="sm" className={classes.wait} aria-label="Opening the sheet" />;

  const pictures = sheet.data.parts.filter((part) => part.picture !== null);
  const others = sheet.data.parts.filter((part) => part.kind === 'font' || part.kind === 'extra');
  return (
    <section className={classes.root} aria-label={`Weight sheet of ${document.name}`}>
      {document.remarks.map((remark) => (
        <p key={remark} className={classes.remark}>
          {remark}
        </p>
      ))}
      <KindTable kinds={sheet.data.kinds} isMeasured={sheet.data.is_measured} />
      {pictures.length > 0 && (
        <ul className={classes.pictures}>
          {pictures.slice(0, shown).map((part) => (
            <PictureCard key={part.id} documentId={document.id} part={part} />
          ))}
        </ul>
      )}
      {pictures.length > shown && (
        <Button size="compact-sm" variant="default" onClick={() => setShown(shown + 4 * AT_ONCE)}>
          {pictures.length - shown} lighter pictures
        </Button>
      )}
      {others.length > 0 && <OtherParts parts={others} />}
    </section>
  );
}

function KindTable({ kinds, isMeasured }: { kinds: Kind[]; isMeasured: boolean }) {
  const heaviest = Math.max(1, ...kinds.map((kind) => kind.bytes));
  return (
    <table className={classes.kinds}>
      <thead>
        <tr>
          <th scope="col">Kind</th>
          <th scope="col" aria-label="Share" />
          <th scope="col">Now</th>
          <th scope="col">{isMeasured ? 'Then' : 'Then, about'}</th>
          <th scope="col">Off</th>
        </tr>
      </thead>
      <tbody>
        {kinds.map((kind) => (
          <tr key={kind.kind}>
            <th scope="row">
              <Box component="i" className={classes.swatch} mod={{ kind: kind.kind }} aria-hidden />
              {KIND_NAMES[kind.kind]}
              {kind.count > 1 && <span className={classes.count}>, {kind.count}</span>}
            </th>
            <td className={classes.share}>
              <Box
                className={classes.bar}
                mod={{ kind: kind.kind }}
                __vars={{
                  '--now': `${(kind.bytes / heaviest) * 100}%`,
                  '--then': `${kind.bytes ? (kind.bytes_then / kind.bytes) * 100 : 0}%`,
                }}
              />
            </td>
            <td>{sizeText(kind.bytes)}</td>
            <td>{sizeText(kind.bytes_then)}</td>
            <td className={classes.off}>
              {kind.bytes > kind.bytes_then ? `−${sizeText(kind.bytes - kind.bytes_then)}` : '–'}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function OtherParts({ parts }: { parts: Part[] }) {
  return (
    <ul className={classes.others}>
      {parts.map((part) => (
        <li key={part.id}>
          <span className={classes.otherName}>{part.name}</span>
          <span className={classes.otherReason}>{part.reason}</span>
          <span>
            {sizeText(part.bytes)}
            {part.bytes_then < part.bytes && ` → ${sizeText(part.bytes_then)}`}
          </span>
        </li>
      ))}
    </ul>
  );
}
