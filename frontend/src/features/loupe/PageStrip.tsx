import { Box, UnstyledButton } from '@mantine/core';

import classes from './PageStrip.module.css';
import { drawingUrl, keyOf, type Proof, samenessOf, worstFirst } from './places';

interface PageStripProps {
  proof: Proof;
  /** Key of the place in sight. */
  current: string;
  onTurn: (key: string) => void;
}

const THUMBNAIL_DPI = 14;

function stripTitle(proof: Proof): string {
  const pages = proof.places.filter((place) => place.page !== null).length;
  if (pages === 0) return 'Pictures';
  return pages === proof.places.length ? 'Pages' : 'Pages and pictures';
}

/** All pages, or pictures where there are no pages, the least alike first, each with how alike it is. */
export function PageStrip({ proof, current, onTurn }: PageStripProps) {
  return (
    <nav className={classes.root} aria-label={`${stripTitle(proof)}, most changed first`}>
      <p className={classes.head}>Most changed first</p>
      <ol className={classes.pages}>
        {worstFirst(proof.places).map((page) => {
          const sameness = samenessOf(page);
          return (
            <li key={keyOf(page)} className={classes.item}>
              <UnstyledButton
                className={classes.page}
                aria-current={keyOf(page) === current ? 'page' : undefined}
                onClick={() => onTurn(keyOf(page))}
              >
                <img
                  className={classes.sheet}
                  src={drawingUrl(proof.copy_id, 'copy', page, THUMBNAIL_DPI)}
                  alt=""
                  loading="lazy"
                />
                <span className={classes.told}>
                  <span className={classes.title}>
                    {page.page === null ? page.title : `p. ${page.page}`}
                  </span>
                  <Box
                    className={classes.bar}
                    mod={{ look: page.faults.length > 0, same: sameness.share >= 0.97 }}
                    __vars={{ '--share': `${sameness.share * 100}%` }}
                  />
                  <span className={classes.word}>{sameness.word}</span>
                </span>
              </UnstyledButton>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}
