import { Button, PasswordInput, TextInput } from '@mantine/core';
import { type SyntheticEvent, useState } from 'react';

import { ErrorNote } from '../../shared/ErrorNote';
import { useSignIn } from './queries';
import classes from './SignIn.module.css';

export function SignIn() {
  const [username, setUsername] = useState('');
  const [password, setPassword] = useState('');
  const signIn = useSignIn();

  const submit = (event: SyntheticEvent) => {
    event.preventDefault();
    signIn.mutate({ username, password });
  };

  return (
    <form className={classes.root} onSubmit={submit}>
      <h1 className={classes.title}>Sign in</h1>
      <p className={classes.text}>Your satchels are seen by you alone.</p>
      <TextInput
        label="Name"
        autoComplete="username"
        value={username}
        onChange={(event) => setUsername(event.currentTarget.value)}
        required
      />
      <PasswordInput
        label="Password"
        autoComplete="current-password"
        value={password}
        onChange={(event) => setPassword(event.currentTarget.value)}
        required
      />
      {signIn.isError && <ErrorNote>{signIn.error.message}</ErrorNote>}
      <Button type="submit" loading={signIn.isPending}>
        Sign in
      </Button>
    </form>
  );
}
