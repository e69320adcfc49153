import { createBrowserRouter } from 'react-router';

import { Shelf } from '../features/shelf';
import { Frame } from './Frame';
import { NotFound } from './NotFound';
import { Opening } from './Opening';

/** Screens but the first are fetched when somebody goes there. */
export const router = createBrowserRouter([
  {
    element: <Frame />,
    hydrateFallbackElement: <Opening />,
    children: [
      { path: '/', element: <Shelf /> },
      {
        path: '/satchels/:satchelId',
        lazy: async () => ({ Component: (await import('../features/bench')).Bench }),
      },
      {
        path: '/satchels/:satchelId/strip/:documentId',
        lazy: async () => ({ Component: (await import('../features/strip')).TestStrip }),
      },
      {
        path: '/copies/:copyId',
        lazy: async () => ({ Component: (await import('../features/loupe')).Loupe }),
      },
      {
        path: '/intake',
        lazy: async () => ({ Component: (await import('../features/intake')).IntakeStart }),
      },
      {
        path: '/intake/:intakeId',
        lazy: async () => ({ Component: (await import('../features/intake')).Intake }),
      },
      {
        path: '/presets',
        lazy: async () => ({ Component: (await import('../features/presets')).Presets }),
      },
      {
        path: '/limits',
        lazy: async () => ({ Component: (await import('../features/limits')).Limits }),
      },
      {
        path: '/runs/:runId/slip',
        lazy: async () => ({ Component: (await import('../features/slip')).Slip }),
      },
      {
        path: '/guide',
        lazy: async () => ({ Component: (await import('../features/guide/Guide')).Guide }),
      },
      { path: '*', element: <NotFound /> },
    ],
  },
]);
