import { Button } from '@mantine/core';
import { type ReactNode, useState } from 'react';

import classes from './Library.module.css';

interface LibraryButtonsProps {
  /** Title of the row; its exported file is named after it. */
  title: string;
  fileAddress: string;
  /** Only what is one's own can be changed and deleted. */
  isOwn: boolean;
  /** The word for changing it. */
  changeWord: string;
  onCopy: () => void;
  onChange: () => void;
  onDelete: () => void;
  /** Buttons that come before. */
  children?: ReactNode;
}

/** The actions on a row of a library; deleting asks for confirmation. */
export function LibraryButtons(props: LibraryButtonsProps) {
  const [isAsking, setIsAsking] = useState(false);
  return (
    <div className={classes.buttons}>
      {props.children}
      <Button size="compact-sm" variant="subtle" onClick={props.onCopy}>
        Duplicate
      </Button>
      <Button
        size="compact-sm"
        variant="subtle"
        component="a"
        href={props.fileAddress}
        download={`${props.title}.json`}
      >
        Export
      </Button>
      {props.isOwn && (
        <>
          <Button size="compact-sm" variant="subtle" onClick={props.onChange}>
            {props.changeWord}
          </Button>
          <Button
            size="compact-sm"
            variant={isAsking ? 'filled' : 'subtle'}
            color={isAsking ? 'red.8' : 'gray'}
            onClick={() => (isAsking ? props.onDelete() : setIsAsking(true))}
          >
            {isAsking ? 'Delete for good' : 'Delete'}
          </Button>
        </>
      )}
    </div>
  );
}
