import { Box, Loader, VisuallyHidden } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';

import { choicesQuery } from '../../../api/choices';
import type { Schemas } from '../../../api/client';
import { ErrorNote } from '../../../shared/ErrorNote';
import { sizeText } from '../../../shared/sizes';
import { FitPicture } from '../copies/FitPicture';
import { NameList } from './NameList';
import { OtherParts } from './OtherParts';
import { PagesAsPictures } from '../pages/PagesAsPictures';
import { PictureList } from './PictureList';
import { Removals } from './Removals';
import { ReturnedCopies } from '../copies/ReturnedCopies';
import { SheetTable } from './SheetTable';
import {
  CURRENT,
  type Document,
  type Satchel,
  type SatchelChanges,
  benchQueries,
} from '../../satchel';
import classes from './WeightSheet.module.css';

type Kind = Schemas['SheetKind'];
type Part = Schemas['SheetPart'];

interface WeightSheetProps {
  document: Document;
  satchel: Satchel;
  changes: SatchelChanges;
}

/** Kinds whose parts are listed one by one; pictures have their cards. */
const SINGLE_KINDS = new Set<Part['kind']>(['font', 'extra', 'profile', 'embedded', 'media']);

/** The weight sheet of a document: kinds, then pictures, then the other parts. */
export function WeightSheet({ document, satchel, changes }: WeightSheetProps) {
  const asked = [
    satchel.wanted,
    document.exceptions,
    document.estimates[CURRENT]?.bytes,
    document.copy?.id,
    document.copy?.state,
  ];
  const sheet = useQuery(benchQueries.sheet(document.id, asked));
  const choices = useQuery(choicesQuery());
  if (sheet.isError) return <ErrorNote>{sheet.error.message}</ErrorNote>;
  if (!sheet.data || !choices.data)
    return (
      <Loader role="status" size="sm" className={classes.wait} aria-label="Opening the sheet" />
    );

  const pictures = sheet.data.parts.filter((part) => part.picture !== null);
  const sheets = sheet.data.parts.filter((part) => part.cells !== null);
  const names = sheet.data.parts.filter((part) => part.stray_name !== null);
  const others = sheet.data.parts.filter((part) => SINGLE_KINDS.has(part.kind));
  return (
    <section className={classes.root} aria-label={`Weight sheet of ${document.name}`}>
      {document.remarks.map((remark) => (
        <p key={remark} className={classes.remark}>
          {remark}
        </p>
      ))}
      <KindTable
        kinds={sheet.data.kinds}
        titles={choices.data.kinds}
        isMeasured={sheet.data.is_measured}
      />
      <Removals document={document} satchel={satchel} parts={sheet.data.parts} changes={changes} />
      {satchel.is_fitted && <FitPicture document={document} satchel={satchel} />}
      {sheets.length > 0 && <SheetTable parts={sheets} isMeasured={sheet.data.is_measured} />}
      {names.length > 0 && <NameList document={document} parts={names} changes={changes} />}
      {pictures.length > 0 && (
        <PictureList
          satchelId={satchel.id}
          document={document}
          pictures={pictures}
          changes={changes}
        />
      )}
      {others.length > 0 && <OtherParts document={document} parts={others} changes={changes} />}
      <PagesAsPictures document={document} usual={satchel.wanted.raster} />
      <ReturnedCopies document={document} />
    </section>
  );
}

interface KindTableProps {
  kinds: Kind[];
  titles: Schemas['PartKind'][];
  isMeasured: boolean;
}

function KindTable({ kinds, titles, isMeasured }: KindTableProps) {
  const heaviest = Math.max(1, ...kinds.map((kind) => kind.bytes));
  return (
    <table className={classes.kinds}>
      <thead>
        <tr>
          <th scope="col">Kind</th>
          <th scope="col">
            <VisuallyHidden>Share</VisuallyHidden>
          </th>
          <th scope="col">Before</th>
          <th scope="col">{isMeasured ? 'After' : 'After, estimate'}</th>
          <th scope="col">Saved</th>
        </tr>
      </thead>
      <tbody>
        {kinds.map((kind) => (
          <tr key={kind.kind}>
            <th scope="row">
              <Box component="i" className={classes.swatch} mod={{ kind: kind.kind }} aria-hidden />
              {titles.find((one) => one.kind === kind.kind)?.title}
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
