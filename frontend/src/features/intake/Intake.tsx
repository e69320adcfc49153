import { Button, Loader, TextInput } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useState } from 'react';
import { useNavigate, useParams } from 'react-router';

import { DropCurtain } from '../../shared/DropCurtain';
import { ErrorNote } from '../../shared/ErrorNote';
import type { FoundFile } from '../../shared/files';
import { countText, sizeText } from '../../shared/sizes';
import { useFileDrop } from '../../shared/useFileDrop';
import classes from './Intake.module.css';
import { KeepPanel } from './KeepPanel';
import { isComing, onHand, weightsOf } from './pages';
import { intakeQueries, type ScanRequest, useIntakeChanges } from './queries';
import { ScannerBar } from './ScannerBar';
import { Tray } from './Tray';

const USUAL: ScanRequest = {
  scanner: '',
  source: 'feeder',
  size: 'a4',
  ppi: 300,
  colours: 'colour',
  both_sides: false,
  are_backs: false,
};

/** Pages that come from a scanner or as pictures, until they are put into a satchel. */
export function Intake() {
  const { intakeId = '' } = useParams();
  const intake = useQuery(intakeQueries.one(intakeId));
  const changes = useIntakeChanges(intakeId);
  const navigate = useNavigate();
  const [inLayers, setInLayers] = useState(true);
  const [wanted, setWanted] = useState<ScanRequest>(USUAL);
  const { mutate: add } = changes.add;
  const isDropping = useFileDrop(
    useCallback((files: FoundFile[]) => add(files.map(({ file }) => file)), [add]),
  );
  if (intake.isPending)
    return <Loader role="status" className={classes.wait} aria-label="Fetching the pages" />;
  if (intake.isError) {
    return (
      <div className={classes.start}>
        <ErrorNote>{intake.error.message}</ErrorNote>
      </div>
    );
  }
  const { data } = intake;
  const pages = onHand(data);
  const coming = isComing(data) ? ', more coming' : '';
  const put = () =>
    changes.keep.mutate(
      { name: data.name, in_layers: inLayers },
      { onSuccess: ({ satchel }) => void navigate(`/satchels/${satchel}`) },
    );
  const error = [changes.keep, changes.scan, changes.add, changes.order, changes.change].find(
    (one) => one.error,
  )?.error;
  return (
    <div className={classes.root}>
      <div className={classes.head}>
        <div className={classes.title}>
          <NameField
            key={data.name}
            name={data.name}
            onKeep={(name) => changes.rename.mutate(name)}
          />
          <p>
            {countText(pages.length, 'page')} on hand{coming},{' '}
            <strong>{sizeText(weightsOf(data).asItComes)}</strong> as scanned
          </p>
        </div>
        <Button
          size="md"
          onClick={put}
          loading={changes.keep.isPending}
          disabled={pages.length === 0 || isComing(data)}
        >
          Put into a satchel
        </Button>
      </div>
      <ScannerBar intake={data} changes={changes} wanted={wanted} onChange={setWanted} />
      {error && <ErrorNote>{error.message}</ErrorNote>}
      <div className={classes.main}>
        <Tray intake={data} changes={changes} wanted={wanted} />
        <KeepPanel intake={data} inLayers={inLayers} onChoose={setInLayers} />
      </div>
      {isDropping && <DropCurtain>Let go to add these as pages</DropCurtain>}
    </div>
  );
}

function NameField({ name, onKeep }: { name: string; onKeep: (name: string) => void }) {
  const [typed, setTyped] = useState(name);
  const keep = () => {
    const wanted = typed.trim();
    if (wanted && wanted !== name) onKeep(wanted);
    else setTyped(name);
  };
  return (
    <h1 className={classes.name}>
      <TextInput
        aria-label="What is it called?"
        variant="unstyled"
        maxLength={100}
        value={typed}
        onChange={(event) => setTyped(event.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
        }}
      />
    </h1>
  );
}
