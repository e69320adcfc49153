export { sessionQueries, useSignOut } from './queries';
export { SignIn } from './SignIn';
