import { type QueryClient, queryOptions, useMutation, useQueryClient } from '@tanstack/react-query';

import { api, dataOf } from '../../api/client';

export const shelfQueries = {
  all: () =>
    queryOptions({
      queryKey: ['satchels'],
      queryFn: () => dataOf(api.GET('/api/satchels')),
    }),
  quota: () =>
    queryOptions({
      queryKey: ['quota'],
      queryFn: () => dataOf(api.GET('/api/satchels/quota')),
    }),
};

/** The shelf, and what is taken of the account's room. */
function again(client: QueryClient) {
  void client.invalidateQueries({ queryKey: shelfQueries.quota().queryKey });
  return client.invalidateQueries({ queryKey: shelfQueries.all().queryKey });
}

export function useCreateSatchel() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (name: string) => dataOf(api.POST('/api/satchels', { body: { name } })),
    onSuccess: () => again(client),
  });
}

/** A satchel with a document that comes with the application. */
export function useTrySample() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => dataOf(api.POST('/api/satchels/sample')),
    onSuccess: () => again(client),
  });
}

export function useCopySatchel() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      dataOf(api.POST('/api/satchels/{id}/duplicate', { params: { path: { id } } })),
    onSuccess: () => again(client),
  });
}

export function useDeleteSatchel() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) =>
      dataOf(api.DELETE('/api/satchels/{id}', { params: { path: { id } } })),
    onSuccess: () => again(client),
  });
}
