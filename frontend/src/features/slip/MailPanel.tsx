import { Button, TextInput } from '@mantine/core';
import { IconDownload, IconSend } from '@tabler/icons-react';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { api, dataOf, type Schemas } from '../../api/client';
import { ErrorNote } from '../../shared/ErrorNote';
import { countText, sizeText } from '../../shared/sizes';
import classes from './MailPanel.module.css';
import { slipQueries } from './queries';

/** The copies of a run as mail messages: to open in a mail program, or to send from here. */
export function MailPanel({ runId }: { runId: string }) {
  const mail = useQuery(slipQueries.mail(runId));
  if (mail.isError) return <ErrorNote>{mail.error.message}</ErrorNote>;
  if (!mail.data || mail.data.messages.length === 0) return null;
  const { messages, can_send, sendings } = mail.data;
  return (
    <section className={classes.root} aria-label="By mail">
      <h2>By mail</h2>
      <p className={classes.told}>
        {messages.length === 1
          ? 'One message holds all copies, with a note of what was done.'
          : `${countText(messages.length, 'message')}, as one would be too heavy.`}{' '}
        Open it with your mail program, and write who gets it.
      </p>
      <ul className={classes.messages}>
        {messages.map((message) => (
          <li key={message.number}>
            <Button
              component="a"
              variant="default"
              size="compact-md"
              leftSection={<IconDownload size={16} />}
              href={`/api/runs/${runId}/mail/${message.number}.eml`}
            >
              {message.subject}
            </Button>
            <span>
              {sizeText(message.size_bytes)} as it travels,{' '}
              {countText(message.files.length, 'file')}
              {!message.fits && <b className={classes.over}>, over the limit</b>}
            </span>
          </li>
        ))}
      </ul>
      {can_send && <SendForm runId={runId} />}
      {sendings.length > 0 && <Sendings sendings={sendings} />}
    </section>
  );
}

function SendForm({ runId }: { runId: string }) {
  const [to, setTo] = useState('');
  const client = useQueryClient();
  const receivers = to.split(/[\s,;]+/).filter(Boolean);
  const send = useMutation({
    mutationFn: () =>
      dataOf(
        api.POST('/api/runs/{id}/mail/send', {
          params: { path: { id: runId } },
          body: { receivers },
        }),
      ),
    onSuccess: () => setTo(''),
    onSettled: () => client.invalidateQueries({ queryKey: ['mail', runId] }),
  });
  return (
    <form
      className={classes.form}
      onSubmit={(event) => {
        event.preventDefault();
        send.mutate();
      }}
    >
      <TextInput
        label="Or send them from here to"
        description="Addresses, with commas between"
        value={to}
        onChange={(event) => setTo(event.currentTarget.value)}
      />
      <Button
        type="submit"
        leftSection={<IconSend size={16} />}
        loading={send.isPending}
        disabled={receivers.length === 0}
      >
        Send to {countText(receivers.length, 'address', 'addresses')}
      </Button>
      {send.error && <ErrorNote>{send.error.message}</ErrorNote>}
    </form>
  );
}

const STATES: Record<string, string> = { waiting: 'Being sent', sent: 'Sent', failed: 'Not sent' };

function Sendings({ sendings }: { sendings: Schemas['Sending'][] }) {
  return (
    <ul className={classes.sendings} aria-label="Sent before">
      {sendings.map((sending) => (
        <li key={sending.id}>
          <b>{STATES[sending.state]}</b> to {sending.receivers.join(', ')},{' '}
          {new Date(sending.created_at).toLocaleString('en-GB', {
            dateStyle: 'medium',
            timeStyle: 'short',
          })}
          {sending.error_message && <span className={classes.over}> {sending.error_message}</span>}
        </li>
      ))}
    </ul>
  );
}
