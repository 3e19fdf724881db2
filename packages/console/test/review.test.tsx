/** @jest-environment jest-fixed-jsdom */
import { QueryClientProvider } from '@tanstack/react-query';
import { fireEvent, render, screen, waitFor } from '@testing-library/react';
import { MemoryRouter, Outlet, Route, Routes } from 'react-router';
import type { PendingChanges, SiteSummary } from '@kleidon/client';
import { usePending } from '../src/changes/use-pending.ts';
import { queryClient } from '../src/query-client.ts';
import { ReviewPage } from '../src/review/review-page.tsx';
import { answerFor, type Sent } from './service-double.ts';

const SITE: SiteSummary = {
  id: 's',
  name: 'S',
  draft: { version: 4, savedAt: '2026-11-26T09:00:00Z', errors: 0, isLive: false },
  live: { number: 2, releasedAt: '2026-11-25T09:00:00Z', note: '' },
};
const pendingWith = (
  says: readonly string[],
  more: Partial<PendingChanges> = {},
): PendingChanges => ({
  id: 'c',
  draftVersion: 4,
  edits: says.map((one, i) => ({
    number: i + 1,
    edit: { do: 'remove', section: 'roles', name: one, was: null },
    says: one,
    refused: null,
    conflict: null,
  })),
  operations: [],
  errors: [],
  ...more,
});
const EFFECT = { errors: [], refused: [], change: null, findings: [], visits: [] };
const COMPARISON = {
  at: '2026-11-26T09:00:00Z',
  timeZone: 'UTC',
  stretches: 1,
  notFrom: null,
  notCompared: [],
  total: 0,
  changes: [],
  differences: [],
};

function Frame() {
  return (
    <Outlet
      context={{
        site: SITE,
        releases: [],
        pending: usePending('s', SITE.draft.version),
        reload: () => {},
      }}
    />
  );
}

let name: string;
beforeEach(() => {
  queryClient.clear();
  localStorage.clear();
  name = 'browser-1';
  localStorage.setItem('kleidon.changes.s', name);
});

async function review(
  changes: PendingChanges,
  answers: Record<string, (sent: Sent) => unknown> = {},
): Promise<readonly Sent[]> {
  const sent = answerFor({
    [`GET /api/sites/s/changes/${name}`]: () => changes,
    'POST /api/sites/s/effect': () => EFFECT,
    'POST /api/sites/s/comparison': () => COMPARISON,
    'GET /api/sites/s/scheduled-release': () => ({ scheduled: null }),
    ...answers,
  });
  render(
    <QueryClientProvider client={queryClient}>
      <MemoryRouter>
        <Routes>
          <Route element={<Frame />}>
            <Route index element={<ReviewPage />} />
          </Route>
        </Routes>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  await screen.findByRole('heading', { name: 'Review' });
  return sent;
}
const button = (title: string) => screen.getByRole<HTMLButtonElement>('button', { name: title });

const note = (text: string): boolean =>
  fireEvent.change(screen.getByLabelText('Note: why'), { target: { value: text } });

describe('the review', () => {
  test('releases at a time that is set', async () => {
    const takesEffectAt = '2027-03-01T09:00:00Z';
    const sent = await review(pendingWith([]), {
      'PUT /api/sites/s/scheduled-release': () => ({ takesEffectAt }),
    });
    note('Spring');
    const at = '2027-03-01T09:00';
    fireEvent.change(screen.getByLabelText(/^When/), { target: { value: at } });
    fireEvent.click(button('Schedule draft 4'));
    await screen.findByText(/^Version 4 of the draft is released on .*2027/);
    const [scheduled] = sent.filter(({ path, method }) =>
      `${method} ${path}`.startsWith('PUT /api/sites/s/scheduled'),
    );
    expect([scheduled!.ifMatch, scheduled!.body]).toEqual(['"4"', { note: 'Spring', at }]);
  });

  test('releases a draft that is saved and not live, with the note, once', async () => {
    const sent = await review(pendingWith([]), {
      'POST /api/sites/s/releases': () => ({ number: 3, introduced: [] }),
    });
    expect(button('Release draft 4').disabled).toBe(true);
    note('Spring');
    fireEvent.click(button('Release draft 4'));
    fireEvent.click(button('Release draft 4'));
    await screen.findByText('Release 3 is live.');
    const releases = sent.filter(({ path }) => path.endsWith('/releases'));
    expect(releases.map(({ ifMatch, body }) => [ifMatch, body])).toEqual([
      ['"4"', { note: 'Spring' }],
    ]);
  });

  test('saves and releases what was saved, not what was there before', async () => {
    const sent = await review(pendingWith(['one']), {
      [`POST /api/sites/s/changes/${name}/save`]: () => ({ version: 5 }),
      'POST /api/sites/s/releases': () => ({ number: 3, introduced: [] }),
    });
    note('Spring');
    fireEvent.click(button('Save and release'));
    await screen.findByText('Release 3 is live.');
    expect(sent.find(({ path }) => path.endsWith('/releases'))?.ifMatch).toBe('"5"');
  });

  test('saves nothing while a change can not be made any more, and says which', async () => {
    const [edit] = pendingWith(['one']).edits;
    await review(pendingWith([], { edits: [{ ...edit!, refused: 'No role is called "one".' }] }));
    screen.getByText('Can not be made: No role is called "one".');
    expect([button('Save to the draft').disabled, button('Save and release').disabled]).toEqual([
      true,
      true,
    ]);
  });

  test('can save a file with errors, and not release it', async () => {
    await review(
      pendingWith(['one'], {
        errors: [{ line: 3, message: 'No role is called "x".', remedy: 'Add it.' } as never],
      }),
    );
    const { parentElement: line } = screen.getByRole('link', { name: 'Line 3' });
    expect(line?.textContent).toBe('Line 3: No role is called "x". Add it.');
    expect([button('Save to the draft').disabled, button('Save and release').disabled]).toEqual([
      false,
      true,
    ]);
  });

  test('tells why a save failed, and that nothing is lost', async () => {
    await review(pendingWith(['one']), {
      [`POST /api/sites/s/changes/${name}/save`]: () => new Error('changes-refused'),
    });
    fireEvent.click(button('Save to the draft'));
    await screen.findByText('Nothing was saved, and all of them are still pending.');
  });

  test('a conflict is shown with both values, and resolved by keeping or dropping the change', async () => {
    const edit = { do: 'put', section: 'roles', name: 'a', was: 'Was', value: 'Mine' } as const;
    const conflicting = pendingWith(['Role a: Mine']);
    const [one] = conflicting.edits;
    const conflict = { was: 'Was', is: 'Theirs' };
    const refused = 'Role a was changed meanwhile. Before: Was. Now: Theirs.';
    const sent = await review(
      { ...conflicting, edits: [{ ...one!, edit, refused, conflict }] },
      {
        // The edit in its place has another number.
        [`POST /api/sites/s/changes/${name}`]: () => ({
          ...conflicting,
          edits: [{ ...one!, number: 2 }],
        }),
      },
    );
    screen.getByText(`Conflict: ${refused}`);
    expect(button('Save to the draft').disabled).toBe(true);
    fireEvent.click(button('Keep mine: Role a: Mine'));
    await screen.findByText('Kept: Role a: Mine.');
    const added = sent.find(
      ({ method, path }) => method === 'POST' && path.endsWith(`/changes/${name}`),
    );
    expect(added?.body).toEqual({ ...edit, was: 'Theirs' });
    expect(button('Save to the draft').disabled).toBe(false);
  });

  test('drops one change, and shows the rest', async () => {
    const sent = await review(pendingWith(['one', 'two']), {
      [`DELETE /api/sites/s/changes/${name}/edits/1`]: () => pendingWith(['two']),
    });
    fireEvent.click(button('Drop: one'));
    await screen.findByText('Dropped: one.');
    await waitFor(() => expect(screen.getAllByRole('listitem')).toHaveLength(1));
    expect(sent.filter(({ method }) => method === 'DELETE')).toHaveLength(1);
  });
});
