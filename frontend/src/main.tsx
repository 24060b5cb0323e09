import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, Route, Routes } from 'react-router';
import { SenderContext, useSending } from './api/save';
import { Sender } from './api/sender';
import { NotThere } from './pages/NotThere';
import './styles.css';
import { Boundary } from './ui/Boundary';
import { applyTheme } from './ui/theme';
import { WhoProvider } from './ui/who';

const Bench = lazy(() => import('./pages/Bench'));
const JobPage = lazy(() => import('./pages/JobPage'));
const PrintPage = lazy(() => import('./pages/PrintPage'));
const ShelfPage = lazy(() => import('./pages/ShelfPage'));
const Desk = lazy(() => import('./pages/Desk'));

applyTheme();

const queries = new QueryClient({
  defaultOptions: {
    queries: { retry: 1, refetchOnWindowFocus: true, staleTime: 2000, networkMode: 'always' },
    mutations: { networkMode: 'always' },
  },
});

const sender = new Sender(queries);

function Application() {
  useSending(sender);
  return (
    <SenderContext value={sender}>
      <BrowserRouter>
        <Boundary what="This page">
          <Suspense fallback={<p className="quiet p-10">Fetching the page…</p>}>
            <Routes>
              <Route path="/" element={<Bench />} />
              <Route path="/shelf" element={<ShelfPage />} />
              <Route path="/desk/:card?" element={<Desk />} />
              <Route path="/jobs/:jobId/print" element={<PrintPage />} />
              <Route path="/jobs/:jobId/:stage?" element={<JobPage />} />
              <Route path="*" element={<NotThere />} />
            </Routes>
          </Suspense>
        </Boundary>
      </BrowserRouter>
    </SenderContext>
  );
}

const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <WhoProvider>
          <Application />
        </WhoProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
