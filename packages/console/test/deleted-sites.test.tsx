/** @jest-environment jest-fixed-jsdom */
import { QueryClientProvider } from '@tanstack/react-query';
import { fireEvent, render, screen } from '@testing-library/react';
import { MemoryRouter, Route, Routes } from 'react-router';
import { queryClient } from '../src/query-client.ts';
import { DeletedSites } from '../src/sites/deleted-sites.tsx';
import { answerFor } from './service-double.ts';

const SITE = {
  id: 'old',
  name: 'Old',
  draft: { version: 3, savedAt: '2026-11-26T09:00:00Z', errors: 0, isLive: false },
  live: null,
};
const CANCELLED = {
  site: 'old',
  note: 'The spring opening',
  override: null,
  draftVersion: 3,
  takesEffectAt: '2026-11-27T09:00:00Z',
  scheduledAt: '2026-11-25T09:00:00Z',
};

function restoring(cancelled: typeof CANCELLED | null): void {
  queryClient.clear();
  answerFor({
    'GET /api/deleted-sites': () => ({
      sites: [{ id: 'old', deletedAt: '2026-11-26T10:00:00Z', keptUntil: '2026-12-26T10:00:00Z' }],
    }),
    'POST /api/deleted-sites/old/restore': () => ({ site: SITE, scheduled: null, cancelled }),
  });
  render(
    <QueryClientProvider client={queryClient}>
      <MemoryRouter>
        <Routes>
          <Route path="/" element={<DeletedSites />} />
          <Route path="/sites/old" element={<p>The site itself</p>} />
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
}

test('a site is opened once it is restored', async () => {
  restoring(null);
  fireEvent.click(await screen.findByRole('button', { name: 'Restore old' }));
  expect(await screen.findByText('The site itself')).toBeTruthy();
});

test('a release that was cancelled meanwhile is told before', async () => {
  restoring(CANCELLED);
  fireEvent.click(await screen.findByRole('button', { name: 'Restore old' }));
  const told = await screen.findByRole('status');
  expect(told.textContent).toMatch(
    /^Old is restored\. The release of draft version 3 was scheduled for .*, and is cancelled: The spring opening\./,
  );
  fireEvent.click(screen.getByRole('link', { name: 'Open Old' }));
  expect(await screen.findByText('The site itself')).toBeTruthy();
});
