import { createBrowserRouter } from 'react-router';

import { Bench } from '../features/bench';
import { Shelf } from '../features/shelf';
import { Frame } from './Frame';
import { NotFound } from './NotFound';

export const router = createBrowserRouter([
  {
    element: <Frame />,
    children: [
      { path: '/', element: <Shelf /> },
      { path: '/satchels/:satchelId', element: <Bench /> },
      { path: '*', element: <NotFound /> },
    ],
  },
]);
