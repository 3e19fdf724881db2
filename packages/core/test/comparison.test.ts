import { decisions, type model, queries, siteFiles, wording } from '../src/index.ts';
import { NOW, sampleText, siteOf } from './support.ts';

const HEAD = `kleidon: 1
site: { name: C, address: https://c.example, sign-in: /sign-in, full-access: role admin }
roles: { crew: x, admin: x }
`;
const gridOf = (body: string) => {
  const prepared = siteOf(body, HEAD);
  return decisions.grid(prepared, prepared.site.visitors, NOW);
};
const SITE = `pages: { /sign-in: S, /a: A, /a/b: B, /c: C }
gates: { g: { under: /a, admit: role crew } }
visitors: { gale: { guest: yes }, vik: { roles: [crew] }, ada: { roles: [admin] } }
`;

describe('two grids compared', () => {
  test('are the same with themselves', () => {
    const one = gridOf(SITE);
    expect(decisions.compareGrids(one, one)).toEqual({
      compared: 12,
      cells: [],
      pagesMoved: [],
      pagesAdded: [],
      pagesRemoved: [],
      visitorsAdded: [],
      visitorsRemoved: [],
    });
  });

  test('differ in the cells of those whom a gate no longer admits, full access told', () => {
    const after = gridOf(SITE.replace('admit: role crew', 'admit: nobody'));
    const { cells } = decisions.compareGrids(gridOf(SITE), after);
    expect(cells.map((one) => [one.address, one.visitor, one.after.outcome])).toEqual([
      ['/a', 'vik', 'block'],
      ['/a/b', 'vik', 'block'],
    ]);
  });

  test('tell pages and visitors that come, go and move', () => {
    const after = gridOf(
      SITE.replace('/c: C', '/d: D')
        .replace('/a: A, /a/b: B', '/x: A, /x/b: B')
        .replace('under: /a', 'under: /x')
        .replace('vik: { roles: [crew] }', 'nia: {}'),
    );
    const moved = new Map([
      ['/a', '/x'],
      ['/a/b', '/x/b'],
    ]);
    expect(decisions.compareGrids(gridOf(SITE), after, moved)).toMatchObject({
      compared: 6,
      cells: [],
      pagesMoved: [
        { from: '/a', to: '/x' },
        { from: '/a/b', to: '/x/b' },
      ],
      pagesAdded: ['/d'],
      pagesRemoved: ['/c'],
      visitorsAdded: ['nia'],
      visitorsRemoved: ['vik'],
    });
  });
});

test.each<[model.Edit, string]>([
  [
    {
      do: 'put',
      section: 'gates',
      name: 'g',
      was: null,
      value: { at: ['/a', '/b'], otherwise: [{ do: 'hide' }] },
    },
    'Gate g: at /a, /b; otherwise do hide',
  ],
  [
    { do: 'put', section: 'site', name: 'ungated', was: null, value: 'closed' },
    'Site: ungated is closed',
  ],
  [{ do: 'remove', section: 'site', name: 'sign-in', was: null }, 'Site: sign-in is as usual'],
  [{ do: 'remove', section: 'roles', name: 'crew', was: null }, 'Role crew is removed'],
  [{ do: 'put', section: 'groups', name: 'g', was: null, value: null }, 'Group g: nothing more'],
  [
    { do: 'put-item', section: 'redirects', was: null, value: { from: '/a', to: '/b' } },
    'Redirect is added: from /a; to /b',
  ],
  [
    { do: 'put-item', section: 'not-found', was: { under: '/' }, value: null },
    'Not-found rule is removed: under /',
  ],
  [
    { do: 'move-page', from: '/a', to: '/b', beneath: false, redirect: false },
    'Page /a moves to /b, without a redirect',
  ],
  [{ do: 'copy-settings', from: '/a', to: '/b' }, 'Page /b gets the settings of /a'],
])('%j is said in words', (edit, words) => {
  expect(wording.sayEdit(edit)).toBe(words);
});

describe('a condition as it is typed', () => {
  const site = siteFiles.valueOf(sampleText());
  test.each([
    ['role warden', true, 'anyone with the role warden'],
    ['not (guest or role member)', true, 'anyone signed in, except anyone with the role member'],
    ['crew', true, 'anyone with the role volunteer, ringer or warden'],
    ['role "warden"', true, 'anyone with the role warden'],
  ])('%s is read', (text, ok, words) => {
    expect(queries.readCondition(text, site)).toMatchObject({ ok, words, text });
  });

  test.each([
    ['', 0],
    ['role warden or', 14],
    ['role warden and role nobody-has', 21],
    ['bought hide-permt', 7],
    ['crw', 0],
    ['role "war', 5],
  ])('%j is refused at %i', (text, offset) => {
    expect(queries.readCondition(text, site)).toMatchObject({ ok: false, offset });
  });

  test('is read also where the site file has errors elsewhere', () => {
    const broken = { ...site, audiences: { crew: 'rule x' }, gates: { g: 7 } };
    expect(queries.readCondition('role warden', broken)).toMatchObject({ ok: true });
    expect(queries.readCondition('crew', broken)).toMatchObject({ ok: true, words: 'nobody' });
    expect(queries.readCondition('role warden', { ...site, gates: { g: 7 } })).toMatchObject({
      ok: true,
    });
  });
});

test('of an entry that is there, only what changes is said', () => {
  const site = {
    gates: {
      g: { under: '/a', admit: 'role a', until: '2027-01-01', otherwise: [{ do: 'hide' }] },
    },
    roles: { crew: 'Crew' },
  };
  const put = (section: 'gates' | 'roles', name: string, value: unknown): string =>
    wording.sayEdit({
      do: 'put',
      section,
      name,
      was: (site[section] as Record<string, unknown>)[name],
      value,
    });
  const { until: _, ...rest } = site.gates.g;
  expect(put('gates', 'g', { ...rest, admit: 'role b' })).toBe(
    'Gate g: admit role b; without until',
  );
  expect(put('gates', 'g', site.gates.g)).toContain('under /a; admit role a');
  expect(put('gates', 'toString', { at: '/b' })).toBe('Gate toString: at /b');
  expect(put('roles', 'crew', 'The crew')).toBe('Role crew: The crew');
});
