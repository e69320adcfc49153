import { Button, NativeSelect, SegmentedControl, Switch } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';

import { ErrorNote } from '../../shared/ErrorNote';
import classes from './Intake.module.css';
import { isComing, onHand } from './pages';
import {
  type IntakeChanges,
  type IntakeData,
  intakeQueries,
  type Scanner,
  type ScanRequest,
} from './queries';

const SIZES: { value: ScanRequest['size']; label: string }[] = [
  { value: 'a4', label: 'A4' },
  { value: 'a5', label: 'A5' },
  { value: 'letter', label: 'Letter' },
  { value: 'legal', label: 'Legal' },
  { value: 'all', label: 'All it sees' },
];
const COLOURS = { colour: 'Colour', grey: 'Greyscale', bitonal: 'Black and white' };
const SOURCES = { glass: 'On the glass', feeder: 'In the feeder' };

interface ScannerBarProps {
  intake: IntakeData;
  changes: IntakeChanges;
  wanted: ScanRequest;
  onChange: (wanted: ScanRequest) => void;
}

/** Which scanner, how the paper lies, how fine; and the one button. */
export function ScannerBar(props: ScannerBarProps) {
  const scanners = useQuery(intakeQueries.scanners());
  if (scanners.isPending) return <p className={classes.barNote}>Asking the scanners …</p>;
  if (scanners.isError) return <ErrorNote>{scanners.error.message}</ErrorNote>;
  if (scanners.data.length === 0) {
    return (
      <p className={classes.barNote}>
        No scanner is set up here; whoever looks after this installation can name one. Pictures of
        pages can be dropped all the same.
      </p>
    );
  }
  return <Settings {...props} scanners={scanners.data} onAsk={() => void scanners.refetch()} />;
}

interface SettingsProps extends ScannerBarProps {
  scanners: Scanner[];
  onAsk: () => void;
}

function Settings({ intake, changes, wanted, onChange, scanners, onAsk }: SettingsProps) {
  const scanner = scanners.find((one) => one.name === wanted.scanner) ?? scanners[0];
  if (!scanner) return null;
  const source = scanner.sources.find((one) => one.name === wanted.source) ?? scanner.sources[0];
  const change = (changed: Partial<ScanRequest>) => onChange({ ...wanted, ...changed });
  const canDuplex = source?.name === 'feeder' && source.has_duplex;
  const scan = (are_backs: boolean) => {
    if (!source) return;
    changes.scan.mutate({
      ...wanted,
      scanner: scanner.name,
      source: source.name,
      both_sides: wanted.both_sides && canDuplex,
      are_backs,
    });
  };
  const isBusy = isComing(intake);
  const canTurn = intake.scan?.state === 'done' && onHand(intake).length > 1;
  return (
    <section className={classes.bar} aria-label="Scanner">
      <NativeSelect
        label="From"
        value={scanner.name}
        data={scanners.map((one) => ({ value: one.name, label: `${one.name}, ${stateOf(one)}` }))}
        onChange={(event) => change({ scanner: event.currentTarget.value })}
      />
      {source ? (
        <>
          <div>
            <span className={classes.label} id="paper-lies">
              Paper lies
            </span>
            <SegmentedControl
              aria-labelledby="paper-lies"
              data={scanner.sources.map((one) => ({ value: one.name, label: SOURCES[one.name] }))}
              value={source.name}
              onChange={(value) => change({ source: value })}
            />
          </div>
          <NativeSelect
            label="Size"
            data={SIZES}
            value={wanted.size}
            onChange={(event) => change({ size: event.currentTarget.value as ScanRequest['size'] })}
          />
          <NativeSelect
            label="Resolution"
            data={source.ppi.map((ppi) => ({ value: String(ppi), label: `${ppi} ppi` }))}
            value={String(wanted.ppi)}
            onChange={(event) => change({ ppi: Number(event.currentTarget.value) })}
          />
          <NativeSelect
            label="Colours"
            data={source.colours.map((one) => ({ value: one, label: COLOURS[one] }))}
            value={wanted.colours}
            onChange={(event) =>
              change({ colours: event.currentTarget.value as ScanRequest['colours'] })
            }
          />
          {canDuplex && (
            <Switch
              className={classes.sides}
              label="Both sides"
              checked={wanted.both_sides}
              onChange={(event) => change({ both_sides: event.currentTarget.checked })}
            />
          )}
          <div className={classes.barEnd}>
            {source.name === 'feeder' && canTurn && !wanted.both_sides && !isBusy && (
              <Button variant="default" onClick={() => scan(true)}>
                Scan the backs
              </Button>
            )}
            {isBusy ? (
              <Button variant="outline" color="red.8" onClick={() => changes.stop.mutate()}>
                Stop the scanner
              </Button>
            ) : (
              <Button onClick={() => scan(false)} loading={changes.scan.isPending}>
                Scan
              </Button>
            )}
          </div>
        </>
      ) : (
        <div className={classes.silent}>
          <p>{scanner.message}</p>
          <Button variant="default" onClick={onAsk}>
            Ask again
          </Button>
        </div>
      )}
    </section>
  );
}

function stateOf({ state }: Scanner): string {
  if (state === 'idle') return 'ready';
  if (state === 'processing') return 'busy';
  return state === 'unreachable' ? 'silent' : state;
}
