import { createBrowserRouter } from 'react-router';

import { Bench } from '../features/bench';
import { Intake, IntakeStart } from '../features/intake';
import { Loupe } from '../features/loupe';
import { Presets } from '../features/presets';
import { Shelf } from '../features/shelf';
import { Slip } from '../features/slip';
import { Frame } from './Frame';
import { NotFound } from './NotFound';

export const router = createBrowserRouter([
  {
    element: <Frame />,
    children: [
      { path: '/', element: <Shelf /> },
      { path: '/satchels/:satchelId', element: <Bench /> },
      { path: '/copies/:copyId', element: <Loupe /> },
      { path: '/intake', element: <IntakeStart /> },
      { path: '/intake/:intakeId', element: <Intake /> },
      { path: '/presets', element: <Presets /> },
      { path: '/runs/:runId/slip', element: <Slip /> },
      { path: '*', element: <NotFound /> },
    ],
  },
]);
