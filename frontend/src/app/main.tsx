import '@fontsource-variable/public-sans';
import './components.css';
import './global.css';

import { MantineProvider } from '@mantine/core';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { RouterProvider } from 'react-router';

import { uploadStore } from '../api/uploads';
import { router } from './router';
import { theme } from './theme';

const nonce = document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content ?? '';
const queryClient = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 2000 } },
});

// Whoever looks at a satchel has it asked for again when a file of it has arrived, even if nobody
// watched it just then. A first answer on its way may be older, and would not be asked for again
// while it is: it is given up.
uploadStore.onArrival((satchelId) => {
  const queryKey = ['satchel', satchelId];
  void queryClient
    .cancelQueries({ queryKey })
    .then(() => queryClient.refetchQueries({ queryKey, type: 'active' }));
});

const root = document.getElementById('root');
if (!root) throw new Error('the page has no place for the application');
createRoot(root).render(
  <StrictMode>
    <MantineProvider theme={theme} defaultColorScheme="auto" getStyleNonce={() => nonce}>
      <QueryClientProvider client={queryClient}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </MantineProvider>
  </StrictMode>,
);
