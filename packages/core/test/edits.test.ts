import { parse } from 'yaml';
import { decisions, type model, queries, siteFiles } from '../src/index.ts';
import { GUEST, NOW, sampleText } from './support.ts';

const SAMPLE = sampleText();
const VALUE = siteFiles.valueOf(SAMPLE) as Record<string, Record<string, unknown>>;

function prepared(text: string): decisions.PreparedSite {
  const read = siteFiles.readSite(text, 'edited.yaml');
  if (!read.ok)
    throw new Error(
      queries
        .explainErrors(read.errors)
        .map(({ line, message }) => `${line} ${message}`)
        .join(),
    );
  return decisions.prepareSite(read.site);
}

const edited = (...edits: model.Edit[]): string => {
  const { text, refused } = siteFiles.planEdits(SAMPLE, edits);
  expect(refused).toEqual([]);
  return text;
};
const refusal = (edit: model.Edit): string | undefined =>
  siteFiles.planEdits(SAMPLE, [edit]).refused[0]?.message;

const gridOf = (text: string): decisions.Grid => {
  const site = prepared(text);
  return decisions.grid(site, site.site.visitors, NOW);
};
/** The outcomes of a grid, row by row; names of visitors and addresses of refusals apart. */
const outcomes = ({ rows }: decisions.Grid): unknown =>
  rows.map(({ title, cells }) => [
    title,
    ...Object.values(cells).map(({ outcome, status, hops, fullAccess }) => [
      outcome,
      status,
      hops,
      fullAccess,
    ]),
  ]);
const comments = (text: string): string[] => text.match(/#.*$/gm) ?? [];
const BEFORE = outcomes(gridOf(SAMPLE));

const NAMES = ['roles', 'groups', 'products', 'audiences', 'gates', 'parts', 'menus'].flatMap(
  (section) => Object.keys(VALUE[section]!).map((name) => [section, name] as const),
);

describe('renaming', () => {
  test.each(NAMES)(
    'one of the %s, %s, follows through every rule, and back again',
    (section, name) => {
      const rename = (from: string, to: string): model.Edit =>
        ({ do: 'rename', section, name: from, to }) as model.Edit;
      const there = edited(rename(name, 'renamed-one'));
      expect(there).not.toBe(SAMPLE);
      expect(there).toContain('renamed-one');
      expect(outcomes(gridOf(there))).toEqual(BEFORE);
      expect(comments(there)).toEqual(comments(SAMPLE));
      expect(siteFiles.planEdits(there, [rename('renamed-one', name)]).text).toBe(SAMPLE);
    },
  );

  test('a visitor is followed where conditions name the person, unless an id of their own is given', () => {
    const file = (id: string): string => `kleidon: 1
site: { name: P, address: https://p.example }
pages: { /a: A }
gates: { g: { at: /a, admit: person vik or role vik or "vik" = query.name } }
roles: { vik: x }
visitors: { vik: { title: Vik${id} } }
visits: [{ address: /a, as: vik, outcome: reach }]
`;
    const renamed: model.Edit = { do: 'rename', section: 'visitors', name: 'vik', to: 'o vik' };
    expect(siteFiles.planEdits(file(''), [renamed]).text).toContain(
      'admit: person "o vik" or role vik or "vik" = query.name',
    );
    expect(siteFiles.planEdits(file(', id: vik'), [renamed]).text).toContain(
      'admit: person vik or',
    );
    expect(siteFiles.planEdits(file(', id: vik'), [renamed]).text).toContain('as: o vik, outcome');
  });

  test.each<[model.Edit, string]>([
    [
      { do: 'rename', section: 'roles', name: 'nobody', to: 'x' },
      'There is no role "nobody" any more.',
    ],
    [
      { do: 'rename', section: 'roles', name: 'warden', to: 'ringer' },
      'There is a role "ringer" already.',
    ],
    [{ do: 'rename', section: 'roles', name: 'warden', to: '' }, 'A role needs a name.'],
    [
      { do: 'remove', section: 'gates', name: 'none', was: null },
      'There is no gate "none" any more.',
    ],
    [
      { do: 'rename', section: 'audiences', name: 'crew', to: 'guest' },
      '"guest" is a word of conditions. Choose another name.',
    ],
    [
      { do: 'put-item', section: 'landings', was: { after: 'never' }, value: null },
      'The landing is not there any more, or was changed.',
    ],
    [
      { do: 'move-page', from: '/crew', to: '/shop', beneath: false, redirect: true },
      'There is a page "/shop" already.',
    ],
    [
      { do: 'move-page', from: '/crew', to: 'team', beneath: false, redirect: true },
      '"team" is no address of this site: begin it with a slash.',
    ],
  ])('%j is refused', (edit, message) => {
    expect(refusal(edit)).toBe(message);
    expect(siteFiles.planEdits(SAMPLE, [edit]).text).toBe(SAMPLE);
  });
});

describe('moving a page', () => {
  const section: model.Edit = {
    do: 'move-page',
    from: '/crew',
    to: '/team',
    beneath: true,
    redirect: true,
  };

  test('takes the pages beneath along, with gates, landings, menus and redirects, and leaves redirects', () => {
    const moved = edited(section);
    const site = prepared(moved);
    expect(site.site.pages.some(({ address }) => /^\/crew(\/|$)/.test(address))).toBe(false);
    expect(site.site.landings[0]!.go).toBe('/team/rota');
    expect(site.site.menus.find(({ name }) => name === 'crew')!.on).toEqual(['/team']);
    const rows = (text: string): Map<string, unknown> =>
      new Map(
        gridOf(text).rows.map(({ title, cells }) => [
          title,
          Object.values(cells).map(({ outcome, status }) => [outcome, status]),
        ]),
      );
    expect(rows(moved)).toEqual(rows(SAMPLE));
    const wren = site.site.visitors.find(({ name }) => name === 'wren')!;
    for (const rest of ['', '/rota', '/ringing-log/118', '/handbook.pdf']) {
      const old = decisions.visit(site, { method: 'GET', address: `/crew${rest}` }, wren, NOW);
      expect(old).toMatchObject({ outcome: 'reach', final: `/team${rest}` });
    }
    expect(comments(moved)).toEqual(comments(SAMPLE));
  });

  test('there and back leaves no redirect in the way', () => {
    const back: model.Edit = { ...section, from: '/team', to: '/crew', redirect: false };
    const site = prepared(siteFiles.planEdits(edited(section), [back]).text);
    expect(site.site.redirects.filter(({ source: name }) => /^\/crew(\/|$)/.test(name))).toEqual(
      [],
    );
    const ada = site.site.visitors.find(({ name }) => name === 'ada')!;
    for (const address of ['/crew', '/crew/rota', '/team/rota', '/crew/ringing-log/118'])
      expect(decisions.visit(site, { method: 'GET', address }, ada, NOW).outcome).toBe(
        address.startsWith('/crew') ? 'reach' : 'missing',
      );
  });

  test('alone leaves what is beneath behind its gate, and stays behind it too', () => {
    const site = prepared(edited({ ...section, beneath: false }));
    expect(queries.whoReaches(site, '/team', NOW)!.gates).toEqual(['crew-room']);
    expect(queries.whoReaches(site, '/crew/rota', NOW)!.gates).toEqual(['crew-room']);
    expect(decisions.visit(site, { method: 'GET', address: '/crew' }, GUEST, NOW).outcome).toBe(
      'sign-in',
    );
  });

  describe('that other rules spell otherwise', () => {
    const file = `kleidon: 1
site: { name: T, address: 'https://t.example', also: ['https://www.t.example'], sign-in: /in, tidy: { endings: [.html], words: '-' } }
pages: { /: Home, /in: In, /café-bar: { title: Café, aliases: [/bar, /Old_Bar] }, /café-bar/menu: Menu, /other: { title: O, leads-to: 'https://T.example/CAF%C3%A9_bar#map' } }
gates:
  bar: { at: [/CAF%C3%A9-bar.html, '/other/'], admit: signed-in }
  menu: { under: '/caf%C3%A9_bar/', admit: signed-in }
menus:
  main: { links: ['https://www.t.example/Caf%c3%a9-Bar?x=1', '/café-bar//menu', 'https://far.example/café-bar'] }
redirects: [{ from: /to, to: '/Café-bar/' }]
`;
    const moveTo = (to: string, more: Partial<model.Edit> = {}) =>
      siteFiles.planEdits(file, [
        { ...section, from: '/café-bar', to, redirect: false, ...more } as model.Edit,
      ]);

    test('stays behind its gates, and what names it follows', () => {
      const { text, refused } = moveTo('/pub');
      expect(refused).toEqual([]);
      const value = parse(text) as Record<string, Record<string, unknown>>;
      expect(Object.keys(value['pages']!)).toEqual(['/', '/in', '/pub', '/pub/menu', '/other']);
      expect(value['pages']!['/other']).toMatchObject({ 'leads-to': 'https://T.example/pub#map' });
      expect(value['gates']).toMatchObject({
        bar: { at: ['/pub', '/other/'] },
        menu: { under: '/pub' },
      });
      expect(value['menus']!['main']).toEqual({
        links: ['https://www.t.example/pub?x=1', '/pub/menu', 'https://far.example/café-bar'],
      });
      expect(value['redirects']).toEqual([{ from: '/to', to: '/pub' }]);
      const site = prepared(text);
      for (const address of ['/pub', '/pub/menu'])
        expect(decisions.visit(site, { method: 'GET', address }, GUEST, NOW).outcome).toBe(
          'sign-in',
        );
    });

    test('as the home page takes no other page along, nor the gate of the site', () => {
      const closed = file.replace('  menu:', '  all: { under: /, admit: signed-in }\n  menu:');
      const { text, refused } = siteFiles.planEdits(closed, [
        { ...section, from: '/', to: '/start', redirect: true },
      ]);
      expect(refused).toEqual([]);
      const { pages, gates, redirects } = parse(text) as Record<string, Record<string, unknown>>;
      expect(Object.keys(pages!)).toEqual([
        '/start',
        '/in',
        '/café-bar',
        '/café-bar/menu',
        '/other',
      ]);
      expect(gates).toMatchObject({ all: { under: ['/', '/start'] } });
      expect(redirects).toContainEqual(expect.objectContaining({ from: '/', to: '/start' }));
      expect(redirects).toHaveLength(2);
    });

    test('to its own alias makes that its address, and the old one an alias', () => {
      const { text } = moveTo('/old-bar', { redirect: true, beneath: false });
      expect((parse(text) as { pages: object }).pages).toMatchObject({
        '/old-bar': { title: 'Café', aliases: ['/bar', '/café-bar'] },
      });
      const visit = decisions.visit(
        prepared(text),
        { method: 'GET', address: '/Café_Bar' },
        GUEST,
        NOW,
      );
      expect(visit.final).toMatch(/^\/in\?return=%2Fold-bar/);
    });
  });

  test('a pattern keeps its pieces in the redirect', () => {
    const site = prepared(
      edited({
        do: 'move-page',
        from: '/sightings/:year(\\d{4})',
        to: '/seen/:year(\\d{4})',
        beneath: false,
        redirect: true,
      }),
    );
    const { final, outcome } = decisions.visit(
      site,
      { method: 'GET', address: '/sightings/2024' },
      GUEST,
      NOW,
    );
    expect({ final, outcome }).toEqual({ final: '/seen/2024', outcome: 'reach' });
  });
});

describe('putting', () => {
  test('changes what differs and nothing else', () => {
    const gate = VALUE['gates']!['crew-room'] as Record<string, unknown>;
    const put: model.Edit = {
      do: 'put',
      section: 'gates',
      name: 'crew-room',
      was: gate,
      value: { ...gate, admit: 'role warden' },
    };
    const text = edited(put);
    const before = SAMPLE.split('\n');
    const differing = text.split('\n').filter((line, i) => line !== before[i]);
    expect(differing).toEqual(['    admit: role warden']);
    expect(siteFiles.planEdits(SAMPLE, [{ ...put, value: gate }]).operations).toEqual([]);
  });

  test('a page with a title alone is written short, and long when it gets more', () => {
    const put = (name: string, value: unknown): model.Edit => ({
      do: 'put',
      section: 'pages',
      name,
      was: VALUE['pages']![name] ?? null,
      value,
    });
    expect(edited(put('/new', { title: 'New' }))).toContain('\n  /new: New\n');
    expect(edited(put('/about', { title: 'Who we are' }))).toContain('\n  /about: Who we are\n');
    expect(edited(put('/about', { title: 'About us', listed: 'no' }))).toContain(
      '\n  /about: { title: About us, listed: no }\n',
    );
  });

  test('an item of a list is known by what it was', () => {
    const was = (VALUE['landings'] as unknown as unknown[])[2];
    const change = (value: unknown): model.Edit => ({
      do: 'put-item',
      section: 'landings',
      was,
      value,
    });
    const landings = (...edits: model.Edit[]): unknown[] =>
      (parse(edited(...edits)) as { landings: unknown[] }).landings;
    expect(landings(change({ after: 'sign-out', go: '/about' }))[2]).toEqual({
      after: 'sign-out',
      go: '/about',
    });
    expect(landings(change(null))).toHaveLength(2);
    expect(
      landings({ ...change({ after: 'sign-out', go: '/join' }), was: null } as model.Edit),
    ).toHaveLength(4);
  });

  test('settings of another page come with the gates that name it', () => {
    const site = prepared(
      edited({ do: 'copy-settings', from: '/field-guide/waders', to: '/join' }),
    );
    expect(queries.whoReaches(site, '/join', NOW)!.gates).toEqual(['field-guide-chapters']);
    const withAlias = Object.entries(VALUE['pages']!).find(
      ([, page]) => typeof page === 'object' && page !== null && 'aliases' in page,
    )!;
    prepared(edited({ do: 'copy-settings', from: withAlias[0], to: '/join' }));
    const { title, listed } = prepared(
      edited({ do: 'copy-settings', from: '/register', to: '/join' }),
    ).site.pages.find(({ address }) => address === '/join')!;
    expect({ title, listed }).toEqual({ title: 'Join us', listed: false });
  });

  test('names that every object of the language has are names like any other', () => {
    for (const name of ['constructor', 'toString', 'hasOwnProperty']) {
      const text = edited({ do: 'put', section: 'roles', name, was: null, value: 'Odd' });
      expect(text).toContain(`  ${name}: Odd\n`);
      const renamed: model.Edit = { do: 'rename', section: 'roles', name: 'ringer', to: name };
      expect(edited(renamed)).toContain(`role ${name} or role warden`);
      expect(refusal({ do: 'remove', section: 'gates', name, was: null })).toBe(
        `There is no gate "${name}" any more.`,
      );
    }
  });

  test('edits that can be made are made, whatever became of the others', () => {
    const edits: model.Edit[] = [
      { do: 'remove', section: 'gates', name: 'none', was: null },
      { do: 'put', section: 'roles', name: 'counter', was: null, value: 'Counts' },
    ];
    const { text, refused } = siteFiles.planEdits(SAMPLE, edits);
    expect(refused.map(({ position }) => position)).toEqual([0]);
    expect(text).toContain('  counter: Counts\n');
  });
});
