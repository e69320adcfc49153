import { ActionIcon, Button, CopyButton, NativeSelect, TextInput } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';

import { choicesQuery } from '../../api/choices';
import { ErrorNote } from '../../shared/ErrorNote';
import { countText } from '../../shared/sizes';
import classes from './Printers.module.css';
import { type PrintedJob, type Printer, printerQueries, usePrinterChanges } from './printerQueries';

const WORDS: Record<PrintedJob['state'], string> = {
  pending: 'arriving',
  held: 'held',
  processing: 'being weighed',
  stopped: 'stopped',
  canceled: 'cancelled',
  aborted: 'not taken',
  completed: 'in its satchel',
};

/** Printers of the person's own: what programs print to them comes into a satchel. */
export function Printers() {
  const printers = useQuery(printerQueries.all());
  const changes = usePrinterChanges();
  const [isMaking, setIsMaking] = useState(false);
  const failure = [printers, changes.make, changes.remove, changes.renew, changes.cancel].find(
    (one) => one.error,
  )?.error;
  return (
    <section className={classes.root}>
      <header className={classes.head}>
        <h2 className={classes.title}>Print to a satchel</h2>
        {!isMaking && (
          <Button size="sm" variant="default" onClick={() => setIsMaking(true)}>
            Set a printer up
          </Button>
        )}
      </header>
      <p className={classes.text}>
        A printer of your own for whatever program you are in: what is printed to it comes here as a
        PDF instead of onto paper. There is none until you set one up.
      </p>
      {failure && <ErrorNote>{failure.message}</ErrorNote>}
      {isMaking && <NewPrinter changes={changes} onDone={() => setIsMaking(false)} />}
      <ul className={classes.list}>
        {printers.data?.map((printer) => (
          <PrinterRow key={printer.id} printer={printer} changes={changes} />
        ))}
      </ul>
    </section>
  );
}

type Changes = ReturnType<typeof usePrinterChanges>;

function NewPrinter({ changes, onDone }: { changes: Changes; onDone: () => void }) {
  const choices = useQuery(choicesQuery());
  const [name, setName] = useState('');
  const [preset, setPreset] = useState('');
  const usual = preset || choices.data?.usual_preset || '';
  return (
    <form
      className={classes.form}
      onSubmit={(event) => {
        event.preventDefault();
        changes.make.mutate({ name: name.trim(), preset: usual }, { onSuccess: onDone });
      }}
    >
      <TextInput
        label="What it is called"
        placeholder="For the members' mail"
        value={name}
        maxLength={60}
        required
        data-autofocus
        onChange={(event) => setName(event.currentTarget.value)}
      />
      <NativeSelect
        label="Preset of its satchel"
        value={usual}
        data={(choices.data?.presets ?? []).map((one) => ({ value: one.name, label: one.title }))}
        onChange={(event) => setPreset(event.currentTarget.value)}
      />
      <div className={classes.buttons}>
        <Button type="submit" size="sm" loading={changes.make.isPending}>
          Set it up
        </Button>
        <Button size="sm" variant="default" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  );
}

function PrinterRow({ printer, changes }: { printer: Printer; changes: Changes }) {
  const [isAsking, setIsAsking] = useState(false);
  return (
    <li className={classes.printer}>
      <div className={classes.line}>
        <strong>{printer.name}</strong>
        {printer.satchel && <Link to={`/satchels/${printer.satchel}`}>Open its satchel</Link>}
        <span className={classes.buttons}>
          <Button
            size="compact-sm"
            variant="subtle"
            title="The address before ends"
            onClick={() => changes.renew.mutate(printer.id)}
          >
            New address
          </Button>
          <Button
            size="compact-sm"
            variant={isAsking ? 'filled' : 'subtle'}
            color={isAsking ? 'red.8' : 'gray'}
            onClick={() => (isAsking ? changes.remove.mutate(printer.id) : setIsAsking(true))}
          >
            {isAsking ? 'End it for good' : 'End'}
          </Button>
        </span>
      </div>
      <div className={classes.address}>
        <code>{printer.uri}</code>
        <CopyButton value={printer.uri}>
          {({ copied, copy }) => (
            <Button size="compact-sm" variant="default" onClick={copy}>
              {copied ? 'Copied' : 'Copy the address'}
            </Button>
          )}
        </CopyButton>
      </div>
      <p className={classes.text}>
        Add it to your computer as a network printer (IPP). Whoever has the address can print to it.
      </p>
      {printer.jobs.length > 0 && (
        <ul className={classes.jobs}>
          {printer.jobs.map((job) => (
            <li key={job.number} data-state={job.state}>
              <span>
                {job.name}
                {job.pages > 0 && `, ${countText(job.pages, 'page')}`}
              </span>
              <span className={classes.state}>
                {WORDS[job.state]}
                {job.message && `: ${job.message}`}
              </span>
              {['pending', 'processing'].includes(job.state) && (
                <ActionIcon
                  size="sm"
                  variant="subtle"
                  color="gray"
                  aria-label={`Cancel ${job.name}`}
                  onClick={() => changes.cancel.mutate({ id: printer.id, number: job.number })}
                >
                  <IconX size={15} />
                </ActionIcon>
              )}
            </li>
          ))}
        </ul>
      )}
    </li>
  );
}
