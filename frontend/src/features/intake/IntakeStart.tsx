import { Button, Loader } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';

import { EmptyState } from '../../shared/EmptyState';
import { ErrorNote } from '../../shared/ErrorNote';
import { countText } from '../../shared/sizes';
import classes from './Intake.module.css';
import { Printers } from './Printers';
import { intakeQueries, useBeginIntake } from './queries';

/** The start of an intake: a new one, or one that was begun. */
export function IntakeStart() {
  const intakes = useQuery(intakeQueries.all());
  const begin = useBeginIntake();
  const navigate = useNavigate();
  const open = () =>
    begin.mutate(
      `Paper of ${new Date().toLocaleDateString('en-GB', { day: 'numeric', month: 'long' })}`,
      {
        onSuccess: ({ id }) => void navigate(`/intake/${id}`),
      },
    );
  const button = (
    <Button onClick={open} loading={begin.isPending}>
      Take paper in
    </Button>
  );
  return (
    <div className={classes.start}>
      <div className={classes.startHead}>
        <h1>Intake</h1>
        {(intakes.data?.length ?? 0) > 0 && button}
      </div>
      {(intakes.error ?? begin.error) && (
        <ErrorNote>{(intakes.error ?? begin.error)?.message}</ErrorNote>
      )}
      {intakes.isPending && <Loader role="status" aria-label="Fetching what was begun" />}
      {intakes.data?.length === 0 && (
        <EmptyState title="Nothing has been taken in yet" action={button}>
          Lay paper on the glass or into the feeder of a scanner, or drop photos of it. The pages
          lie here side by side until you put them into a satchel.
        </EmptyState>
      )}
      <ul className={classes.rows}>
        {intakes.data?.map(({ id, name, page_count }) => (
          <li key={id}>
            <Link to={`/intake/${id}`}>{name}</Link>
            <span>{countText(page_count, 'page')} on hand</span>
          </li>
        ))}
      </ul>
      <Printers />
    </div>
  );
}
