import { Box, Button, Progress } from '@mantine/core';

import { type Upload, uploadStore } from '../../../api/uploads';
import { ErrorNote } from '../../../shared/ErrorNote';
import { sizeText } from '../../../shared/sizes';
import classes from './DocumentList.module.css';
import { DocumentRow } from './DocumentRow';
import { type Satchel, type SatchelChanges, scaleOf } from '../../satchel';

interface DocumentListProps {
  satchel: Satchel;
  uploads: Upload[];
  changes: SatchelChanges;
}

/** The documents on one scale, the limit running down through all of them. */
export function DocumentList({ satchel, uploads, changes }: DocumentListProps) {
  const { scale, limitAt } = scaleOf(satchel);
  const limit = satchel.limit_bytes ?? null;
  return (
    <Box
      className={classes.root}
      mod={{ limited: limitAt !== null }}
      __vars={limitAt === null ? {} : { '--limit-at': `${limitAt * 100}%` }}
    >
      {limit !== null && (
        <div className={classes.limit}>
          <span className={classes.limitName}>
            {limitAt === null ? 'limit far above: ' : ''}
            {sizeText(limit)}
            {satchel.is_limit_shared ? ' for all together' : ' each'}
            {satchel.limit_carrier === 'message' ? ', as a message' : ''}
          </span>
        </div>
      )}
      <ul className={classes.rows}>
        {satchel.documents.map((document) => (
          <DocumentRow
            key={document.id}
            document={document}
            satchel={satchel}
            scale={scale}
            changes={changes}
          />
        ))}
        {uploads.map((upload) => (
          <UploadRow key={upload.key} upload={upload} />
        ))}
      </ul>
    </Box>
  );
}

function UploadRow({ upload }: { upload: Upload }) {
  const stop = (
    <Button size="compact-sm" variant="default" onClick={() => uploadStore.remove(upload.key)}>
      {upload.error ? 'Remove from the list' : 'Cancel'}
    </Button>
  );
  return (
    <li className={classes.upload}>
      {upload.error ? (
        <ErrorNote action={stop}>
          <strong>{upload.name}</strong> was not taken in. {upload.error.message}
        </ErrorNote>
      ) : (
        <>
          <div className={classes.uploadLine}>
            <span>
              <strong>{upload.name}</strong>{' '}
              {upload.share < 1 ? 'on its way' : 'arrived, being checked'}
            </span>
            <span>{sizeText(upload.bytes)}</span>
            {stop}
          </div>
          <Progress value={upload.share * 100} aria-label={`${upload.name}, upload`} />
        </>
      )}
    </li>
  );
}
