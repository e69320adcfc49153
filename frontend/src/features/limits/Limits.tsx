import { Button, FileButton, Loader } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';

import { choicesQuery } from '../../api/choices';
import { ErrorNote } from '../../shared/ErrorNote';
import { jsonOf } from '../../shared/jsonOf';
import { freeTitle } from '../../shared/titles';
import { LimitRow } from './LimitRow';
import classes from '../../shared/Library.module.css';
import { useLimitChanges } from './queries';

/** The library: limits that ship to copy, own ones to change, as files to carry elsewhere. */
export function Limits() {
  const choices = useQuery(choicesQuery());
  const changes = useLimitChanges();
  const [unread, setUnread] = useState('');
  if (choices.isError) return <ErrorNote>{choices.error.message}</ErrorNote>;
  if (!choices.data)
    return <Loader role="status" className={classes.wait} aria-label="Opening the limits" />;

  const { limits } = choices.data;
  const titles = limits.map(({ title }) => title);
  const refusal =
    unread || [changes.make, changes.remove, changes.take].find((one) => one.error)?.error?.message;
  const row = (limit: (typeof limits)[number]) => (
    <LimitRow
      key={`${limit.name} ${limit.title}`}
      limit={limit}
      changes={changes}
      onCopy={() =>
        changes.make.mutate({
          title: freeTitle(limit.title, titles),
          size_bytes: limit.size_bytes,
          carrier: limit.carrier,
          checklist: limit.checklist,
        })
      }
    />
  );
  const take = (file: File | null) => {
    if (!file) return;
    setUnread('');
    jsonOf(file).then(
      (content) => changes.take.mutate(content),
      (error: unknown) => setUnread(error instanceof Error ? error.message : String(error)),
    );
  };
  const own = limits.filter((limit) => limit.is_own);
  return (
    <div className={classes.root}>
      <header className={classes.head}>
        <h1 className={classes.title}>Limits</h1>
        <FileButton accept="application/json,.json" onChange={take}>
          {(button) => (
            <Button {...button} variant="default" size="sm" loading={changes.take.isPending}>
              Import
            </Button>
          )}
        </FileButton>
      </header>
      <p className={classes.text}>
        Requirements of a mailbox, a portal or an archive: the largest file, and further rules.
        Originals keep their names; copies are renamed to the rule.
      </p>
      {refusal && <ErrorNote>{refusal}</ErrorNote>}
      <h2 className={classes.group}>Your own</h2>
      {own.length === 0 ? (
        <p className={classes.text}>None yet. Duplicate a shipped one, and change it.</p>
      ) : (
        <ul className={classes.list}>{own.map(row)}</ul>
      )}
      <h2 className={classes.group}>Shipped</h2>
      <ul className={classes.list}>{limits.filter((limit) => !limit.is_own).map(row)}</ul>
    </div>
  );
}
