/** The page: its places and what all of them share. */
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { PieceRoom } from './controls/PieceRoom';
import { Drawer } from './drawer/Drawer';
import { Jobs } from './jobs/Jobs';
import { Look } from './look/Look';
import { Make } from './make/Make';
import { Mend } from './mend/Mend';
import { Pieces } from './pieces/Pieces';
import { Preferences } from './preferences/Preferences';
import { Print } from './print/Print';
import './theme/app.scss';

/** A new stage is a folder and a line here. */
const STAGES = [
  { path: 'make', name: 'Make', stage: <Make /> },
  { path: 'mend', name: 'Mend', stage: <Mend /> },
  { path: 'print', name: 'Print', stage: <Print /> },
];

const client = new QueryClient({
  defaultOptions: {
    queries: { refetchOnWindowFocus: false, networkMode: 'always' },
    mutations: { networkMode: 'always' },
  },
});

createRoot(document.getElementById('root') as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <Routes>
          <Route path="/" element={<Pieces />} />
          <Route path="/pieces/:id" element={<PieceRoom stages={STAGES} />}>
            {STAGES.map(({ path, stage }) => (
              <Route key={path} path={path} element={stage} />
            ))}
          </Route>
          <Route path="/look/:link" element={<Look />} />
          <Route path="/drawer" element={<Drawer />} />
          <Route path="/jobs" element={<Jobs />} />
          <Route path="/preferences" element={<Preferences />} />
          <Route path="*" element={<Navigate to="/" replace />} />
        </Routes>
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
