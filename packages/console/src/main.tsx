import { StrictMode } from 'react';
import { QueryClientProvider } from '@tanstack/react-query';
import { createRoot } from 'react-dom/client';
import { BrowserRouter } from 'react-router';
import { App } from './app.tsx';
import { queryClient } from './query-client.ts';
import './style/base.css';
import './style/shell.css';
import './style/reach-grid.css';
import './style/outcomes.css';
import './style/visit.css';
import './style/try.css';
import './style/site-file.css';
import './style/lists.css';
import './style/forms.css';
import './style/effect.css';
import './style/addresses.css';
import './style/live.css';
import './style/narrow.css';

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <QueryClientProvider client={queryClient}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
