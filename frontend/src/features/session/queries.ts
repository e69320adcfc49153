import { queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';

import { api, dataOf, type Schemas } from '../../api/client';

export const sessionQueries = {
  current: () =>
    queryOptions({
      queryKey: ['session'],
      queryFn: () => dataOf(api.GET('/api/session')),
      staleTime: Infinity,
    }),
};

export function useSignIn() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas['CredentialsRequest']) => dataOf(api.POST('/api/session', { body })),
    onSuccess: (session) => client.setQueryData(sessionQueries.current().queryKey, session),
  });
}

export function useSignOut() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => dataOf(api.DELETE('/api/session')),
    onSuccess: (session) => {
      client.clear();
      client.setQueryData(sessionQueries.current().queryKey, session);
    },
  });
}
