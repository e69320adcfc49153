import {
  ActionIcon,
  Button,
  Loader,
  useComputedColorScheme,
  useMantineColorScheme,
} from '@mantine/core';
import { IconMoon, IconSun } from '@tabler/icons-react';
import { useQuery } from '@tanstack/react-query';
import { Link, Outlet } from 'react-router';

import { SignIn, sessionQueries, useSignOut } from '../features/session';
import { ErrorNote } from '../shared/ErrorNote';
import classes from './Frame.module.css';
import { Wordmark } from './Wordmark';

const PLACES = [
  { to: '/intake', label: 'Intake' },
  { to: '/presets', label: 'Presets' },
  { to: '/limits', label: 'Limits' },
  { to: '/guide', label: 'Guide' },
];

/** The frame of every page: the header, and the sign-in for visitors. */
export function Frame() {
  const session = useQuery(sessionQueries.current());
  const signOut = useSignOut();

  return (
    <>
      <a className={classes.skip} href="#content">
        Skip to the content
      </a>
      <header className={classes.head}>
        <Link to="/" className={classes.brand} aria-label="Green Satchel, to the shelf">
          <Wordmark />
        </Link>
        <nav className={classes.rest} aria-label="Account and presets">
          {session.data?.username &&
            PLACES.map(({ to, label }) => (
              <Button
                key={to}
                component={Link}
                to={to}
                variant="subtle"
                color="gray"
                size="compact-sm"
              >
                {label}
              </Button>
            ))}
          <SchemeSwitch />
          {session.data?.username && (
            <>
              <span className={classes.account}>{session.data.username}</span>
              <Button variant="subtle" size="compact-sm" onClick={() => signOut.mutate()}>
                Sign out
              </Button>
            </>
          )}
        </nav>
      </header>
      <main id="content">
        {session.isPending && (
          <Loader role="status" className={classes.wait} aria-label="Opening" />
        )}
        {session.isError && (
          <div className={classes.page}>
            <ErrorNote
              action={
                <Button size="compact-sm" onClick={() => void session.refetch()}>
                  Try again
                </Button>
              }
            >
              {session.error.message}
            </ErrorNote>
          </div>
        )}
        {session.data && (session.data.username ? <Outlet /> : <SignIn />)}
      </main>
    </>
  );
}

function SchemeSwitch() {
  const { setColorScheme } = useMantineColorScheme();
  const isDark = useComputedColorScheme('light') === 'dark';
  return (
    <ActionIcon
      variant="subtle"
      color="gray"
      aria-label={isDark ? 'Light colours' : 'Dark colours'}
      onClick={() => setColorScheme(isDark ? 'light' : 'dark')}
    >
      {isDark ? <IconSun size={18} /> : <IconMoon size={18} />}
    </ActionIcon>
  );
}
