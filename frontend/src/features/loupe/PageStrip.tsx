import { Box, UnstyledButton } from '@mantine/core';

import classes from './PageStrip.module.css';
import { drawingUrl, type Proof, samenessOf, worstFirst } from './places';

interface PageStripProps {
  proof: Proof;
  current: number;
  onTurn: (page: number) => void;
}

const THUMBNAIL_DPI = 14;

/** All pages, the least alike first, each with how alike it is. */
export function PageStrip({ proof, current, onTurn }: PageStripProps) {
  return (
    <nav className={classes.root} aria-label="Pages, least alike first">
      <p className={classes.head}>Least alike first</p>
      <ol className={classes.pages}>
        {worstFirst(proof.pages).map((page) => {
          const sameness = samenessOf(page);
          return (
            <li key={page.page} className={classes.item}>
              <UnstyledButton
                className={classes.page}
                aria-current={page.page === current ? 'page' : undefined}
                onClick={() => onTurn(page.page)}
              >
                <img
                  className={classes.sheet}
                  src={drawingUrl(proof.copy_id, 'copy', page.page, THUMBNAIL_DPI)}
                  alt=""
                  loading="lazy"
                />
                <span>
                  p. {page.page}
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
