import { Button } from '@mantine/core';
import { IconCopy } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import type { Schemas } from '../../../api/client';
import { ErrorNote } from '../../../shared/ErrorNote';
import { sizeText } from '../../../shared/sizes';
import classes from './CopyOuts.module.css';
import { type Document, benchQueries, useShareLinks } from '../../satchel';

type Copy = NonNullable<Document['copy']>;

interface CopyOutsProps {
  copy: Copy;
  /** Whether its links are shown. */
  hasLinks: boolean;
}

/** Ways out for a finished copy: its pieces where it was split, and links to hand it over by. */
export function CopyOuts({ copy, hasLinks }: CopyOutsProps) {
  if (copy.pieces.length === 0 && !hasLinks) return null;
  return (
    <div className={classes.root}>
      {copy.pieces.length > 0 && (
        <ul className={classes.pieces} aria-label="Pieces">
          {copy.pieces.map((piece, index) => (
            <li key={piece.first}>
              <a href={`/api/copies/${copy.id}/file?piece=${index + 1}`}>
                Piece {index + 1} of {copy.pieces.length}
              </a>
              , pages {piece.first} to {piece.last}, {sizeText(piece.bytes)}
            </li>
          ))}
        </ul>
      )}
      {hasLinks && <Links copyId={copy.id} />}
    </div>
  );
}

function Links({ copyId }: { copyId: string }) {
  const { newLink, revoke } = useShareLinks();
  const links = useQuery(benchQueries.links(copyId));
  const failure = links.error ?? newLink.error ?? revoke.error;
  const open = (links.data ?? []).filter((link) => link.is_open);
  const [password, setPassword] = useState('');
  return (
    <div className={classes.links}>
      {failure && <ErrorNote>{failure.message}</ErrorNote>}
      <p className={classes.note}>
        Whoever has a link may download this copy, without an account, until it ends.
      </p>
      {open.map((link) => (
        <LinkLine key={link.id} link={link} onRevoke={() => revoke.mutate(link.id)} />
      ))}
      <div className={classes.link}>
        <Button
          size="compact-sm"
          variant="default"
          loading={newLink.isPending}
          onClick={() => {
            newLink.mutate({ id: copyId, password });
            setPassword('');
          }}
        >
          {open.length > 0 ? 'Create another share link' : 'Create a share link'}
        </Button>
        <input
          className={classes.address}
          type="text"
          autoComplete="off"
          aria-label="Password for the link, if it is to ask for one"
          placeholder="with a password, if you like"
          value={password}
          onChange={(event) => setPassword(event.currentTarget.value)}
        />
      </div>
    </div>
  );
}

interface LinkLineProps {
  link: Schemas['HandOver'];
  onRevoke: () => void;
}

function LinkLine({ link, onRevoke }: LinkLineProps) {
  const address = `${window.location.origin}${link.address}`;
  const [isCopied, setIsCopied] = useState(false);
  return (
    <div className={classes.link}>
      <input
        className={classes.address}
        aria-label="Link to paste"
        readOnly
        value={address}
        onFocus={(event) => event.currentTarget.select()}
      />
      <Button
        size="compact-sm"
        variant="default"
        leftSection={<IconCopy size={14} />}
        onClick={() => void navigator.clipboard.writeText(address).then(() => setIsCopied(true))}
      >
        {isCopied ? 'Copied' : 'Copy'}
      </Button>
      <Button size="compact-sm" variant="subtle" color="gray" onClick={onRevoke}>
        End it
      </Button>
      <span className={classes.note}>
        until {new Date(link.ends_at).toLocaleDateString('en-GB', { dateStyle: 'medium' })},{' '}
        {link.downloads === 0 ? 'not used yet' : `used ${link.downloads} ×`}
        {link.has_password && ', asks for its password'}
      </span>
    </div>
  );
}
