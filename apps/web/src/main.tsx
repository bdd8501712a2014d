import './styles.css';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { createBrowserRouter, Navigate, type RouteObject } from 'react-router';
import { RouterProvider } from 'react-router/dom';
import { Frame } from './frame/Frame.tsx';
import { followSystem } from './frame/look.ts';
import { NotFound, PlaceFailure } from './frame/NotFound.tsx';
import { NowPlace } from './places/now/NowPlace.tsx';
import { Gate } from './signIn/Gate.tsx';
import { makeStore } from './state/store.ts';

followSystem();

// each place but the first is loaded when it is opened
const places: RouteObject[] = [
  {
    path: '/',
    element: (
      <Gate>
        <Frame />
      </Gate>
    ),
    errorElement: <PlaceFailure />,
    hydrateFallbackElement: <div />,
    children: [
      { index: true, element: <Navigate to="/now" replace /> },
      { path: 'now', element: <NowPlace /> },
      {
        path: 'measures',
        lazy: async () => ({ Component: (await import('./places/measures/MeasuresPlace.tsx')).MeasuresPlace }),
      },
      { path: 'map', lazy: async () => ({ Component: (await import('./places/map/MapPlace.tsx')).MapPlace }) },
      { path: 'usage', lazy: async () => ({ Component: (await import('./places/usage/UsagePlace.tsx')).UsagePlace }) },
      {
        path: 'rules/:rule?',
        lazy: async () => ({ Component: (await import('./places/rules/RulesPlace.tsx')).RulesPlace }),
      },
      {
        path: 'sources/:part?',
        lazy: async () => ({ Component: (await import('./places/sources/SourcesPlace.tsx')).SourcesPlace }),
      },
      {
        path: 'admin/:part?',
        lazy: async () => ({ Component: (await import('./places/admin/AdminPlace.tsx')).AdminPlace }),
      },
      { path: '*', element: <NotFound /> },
    ],
  },
];
// the page's base says under which path it stands
const router = createBrowserRouter(places, { basename: new URL(document.baseURI).pathname });

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <Provider store={makeStore()}>
      <RouterProvider router={router} />
    </Provider>
  </StrictMode>,
);
