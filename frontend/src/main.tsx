import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, Route, Routes } from 'react-router';
import { Bench } from './pages/Bench';
import { JobPage } from './pages/JobPage';
import { NotThere } from './pages/NotThere';
import { PrintPage } from './pages/PrintPage';
import { ShelfPage } from './pages/ShelfPage';
import './styles.css';
import { applyTheme } from './ui/theme';
import { WhoProvider } from './ui/who';

applyTheme();

const queries = new QueryClient({
  defaultOptions: {
    queries: { retry: 1, refetchOnWindowFocus: true, staleTime: 2000, networkMode: 'always' },
    mutations: { networkMode: 'always' },
  },
});

const root = document.getElementById('root');
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <WhoProvider>
          <BrowserRouter>
            <Routes>
              <Route path="/" element={<Bench />} />
              <Route path="/shelf" element={<ShelfPage />} />
              <Route path="/jobs/:jobId/print" element={<PrintPage />} />
              <Route path="/jobs/:jobId/:stage?" element={<JobPage />} />
              <Route path="*" element={<NotThere />} />
            </Routes>
          </BrowserRouter>
        </WhoProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
