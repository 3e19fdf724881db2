/** @jest-environment jest-fixed-jsdom */
import { QueryClientProvider } from '@tanstack/react-query';
import { fireEvent, render, screen, waitFor, within } from '@testing-library/react';
import { MemoryRouter, Outlet, Route, Routes } from 'react-router';
import type { ProbeDifference, ProbeInfo, ProbeRun, SiteSummary } from '@kleidon/client';
import { ProbeView } from '../src/live/probe-view.tsx';
import { queryClient } from '../src/query-client.ts';
import { answerFor, type Sent } from './service-double.ts';

const SITE: SiteSummary = {
  id: 's',
  name: 'S',
  draft: { version: 4, savedAt: '2026-11-26T09:00:00Z', errors: 0, isLive: false },
  live: { number: 2, releasedAt: '2026-11-25T09:00:00Z', note: '' },
};
const PROBE: ProbeInfo = {
  website: 'https://s.example',
  every: 21_600,
  nextAt: '2026-11-26T15:00:00Z',
  running: null,
  webhook: null,
};
const RUN: ProbeRun = {
  number: 1,
  website: 'https://s.example',
  release: 2,
  agreed: 9,
  differed: 0,
  untried: [],
  pages: 4,
  endedBy: null,
  failure: null,
  startedAt: '2026-11-26T09:00:00Z',
  endedAt: '2026-11-26T09:01:00Z',
};

// Tables ask how wide the screen and its scroll bars are, which nothing here can tell.
beforeAll(() => {
  const { getComputedStyle } = globalThis;
  globalThis.getComputedStyle = (element) => getComputedStyle(element);
  const nothing = (): void => undefined;
  Object.assign(globalThis, {
    matchMedia: () => ({ matches: false, addListener: nothing, removeListener: nothing }),
    ResizeObserver: class {
      readonly observe = nothing;
      readonly unobserve = nothing;
      readonly disconnect = nothing;
    },
  });
});

function Frame() {
  return <Outlet context={{ site: SITE, releases: [], pending: { state: 'draft', key: '' } }} />;
}

function show(
  probe: ProbeInfo | null,
  runs: readonly ProbeRun[],
  differences: readonly ProbeDifference[] = [],
  answers: Record<string, (sent: Sent) => unknown> = {},
): readonly Sent[] {
  queryClient.clear();
  const sent = answerFor({
    'GET /api/sites/s/probe': () => ({ probe, runs, open: differences.length }),
    'GET /api/sites/s/probe/differences': () => ({ found: differences.length, differences }),
    'GET /api/sites/s/names': () => ({ timeZone: 'UTC' }),
    ...answers,
  });
  render(
    <QueryClientProvider client={queryClient}>
      <MemoryRouter>
        <Routes>
          <Route element={<Frame />}>
            <Route index element={<ProbeView />} />
          </Route>
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  return sent;
}
const factOf = async (name: string): Promise<string> => {
  const term = await screen.findByText(name, { selector: 'dt' });
  return term.nextElementSibling!.textContent;
};

describe('the probe in the console', () => {
  test('without one it says how to set one up', async () => {
    show(null, []);
    await screen.findByText(/No probe is set up for this site/);
    expect(screen.getByText(/probes:/).textContent).toContain('site: s');
  });

  test('says that all agrees, how often it is made, and begins a run', async () => {
    const sent = show(PROBE, [RUN], [], { 'POST /api/sites/s/probe': () => PROBE });
    expect(await factOf('Last run')).toContain('✓ agrees 9 of 9 visits as release 2 says');
    expect(await factOf('Runs')).toContain('every 6 hours and after each release; the next');
    await screen.findByText('No differences: the website does what the rules say.');
    fireEvent.click(screen.getByRole('button', { name: 'Probe now' }));
    await waitFor(() => expect(sent.some(({ method }) => method === 'POST')).toBe(true));
  });

  test('says how far a run is, and begins no other', async () => {
    show({ ...PROBE, nextAt: null, running: { done: 3, all: 9 } }, []);
    expect(await factOf('Runs')).toContain('a run goes on: 3 of 9 visits.');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Probe now' }).disabled).toBe(
      true,
    );
    expect(await factOf('Last run')).toBe('none yet');
    await screen.findByText('No run has ended yet.');
  });

  test('says what failed, who was not tried, and what the webhook was not told', async () => {
    const failed = { ...RUN, number: 2, failure: 'https://s.example answered 502.' };
    const webhook = {
      address: 'https://desk.example/hook',
      waiting: 2,
      last: {
        madeAt: RUN.endedAt,
        attempts: 3,
        deliveredAt: null,
        nextAt: '2026-11-26T10:00:00Z',
        answer: '500',
      },
    };
    show({ ...PROBE, webhook }, [failed, RUN]);
    expect(await factOf('Last run')).toMatch(/× failed .*https:\/\/s\.example answered 502\./);
    expect(await factOf('Webhook')).toMatch(
      /× was not told at the last attempt: 500; the next .*; 2 messages/,
    );
    expect(screen.getByText('Last 2 runs')).toBeTruthy();
  });

  test('says who could not be tried, and that the search for pages ended early', async () => {
    const untried = [{ visitor: 'lou', because: 'nothing says how', failed: false }];
    show(PROBE, [{ ...RUN, untried, endedBy: '2000 pages' }]);
    const last = await factOf('Last run');
    expect(last).toContain('lou was not tried: nothing says how');
    expect(last).toContain('ended before its end: 2000 pages');
  });

  test('tells each difference, with the visit and what to do about it', async () => {
    const first = { firstAt: RUN.startedAt, lastAt: RUN.endedAt, endedAt: null };
    const one = { ...first, expected: '404', found: '200', effect: 'opens' } as const;
    show(
      PROBE,
      [{ ...RUN, differed: 1 }],
      [
        { ...one, kind: 'visit', address: '/a', visitor: 'gale', step: '/b' },
        { ...one, kind: 'undeclared-page', address: '/new', visitor: null, step: '/new' },
      ],
    );
    const row = (await screen.findByRole('link', { name: '/a' })).closest('tr')!;
    expect(within(row).getByText('sees what is not for them', { exact: false })).toBeTruthy();
    expect(row.textContent).toContain('at /b');
    expect(within(row).getByRole('link', { name: '/a' }).getAttribute('href')).toBe(
      '/sites/s/reach/address?address=%2Fa&as=gale&state=live',
    );
    const declare = screen.getByRole('link', { name: 'Declare /new' });
    expect(declare.getAttribute('href')).toBe('/sites/s/pages?new=yes&named=%2Fnew');
  });
});
