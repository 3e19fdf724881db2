import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import robotsParser from 'robots-parser';
import { type decisions, formats, type proposals } from '@kleidon/core';

import { SAMPLE, temporaryFolder } from '../../service/test/running.ts';
import { json, kleidon } from './cli.ts';

const folder = temporaryFolder();
afterAll(folder.remove);
const write = (name: string, text: string): string => {
  const path = join(folder.path, name);
  writeFileSync(path, text);
  return path;
};

// What the package says of its own types differs with the way they are looked up.
const parse = robotsParser as unknown as (
  url: string,
  text: string,
) => { isAllowed(page: string, agent: string): boolean | undefined };
const ODD = `kleidon: 1
site: { name: O, address: https://odd.example, sign-in: /sign-in }
roles: { crew: x }
pages:
  /: Home
  /sign-in: Sign in
  '/a\\*b': Star
  /price$: Dollar
  /café & more: Café
  /logo.svg: { kind: file }
  /register: { listed: no }
  /journal/:slug: { example: /journal/first }
  /journal/draft: Kept
  /crew: Crew
  /crew/open: Open
  /hidden: Hidden
  /old: Old
  /count: { from: 2030-01-01 }
  "/assets/*": { kind: file, example: /assets/site.css }
gates:
  crew: { under: /crew, admit: role crew }
  open: { at: /crew/open, admit: anyone }
  draft: { at: /journal/draft, admit: role crew }
  hidden: { at: /hidden, admit: role crew, otherwise: [{ do: hide }] }
redirects: [{ from: /old, to: / }]
`;

describe('what search engines read', () => {
  test.each([
    ['the sample site', SAMPLE],
    ['a site of odd addresses', write('odd.site.yaml', ODD)],
  ])('agrees with the grid about every page of %s', async (_, file) => {
    const [robots, revealing, sitemap] = await Promise.all([
      kleidon(['export', 'robots', '--file', file]),
      kleidon(['export', 'robots', '--disallow-closed', '--file', file]),
      kleidon(['export', 'sitemap', '--file', file]),
    ]);
    const { rows } = await json<decisions.Grid>([
      'grid',
      '--file',
      file,
      '--visitor',
      'gale',
    ]).catch(async () => json<decisions.Grid>(['grid', '--file', withGuest(file)]));
    const text = readFileSync(file, 'utf8');
    const site = /address: (https:\/\/[\w.]+)/.exec(text)![1]!;
    const [open, closing] = [robots, revealing].map(({ out }) => parse(`${site}/robots.txt`, out));
    const listed = new Set(
      formats.readSitemap(sitemap.out).locations.map((one) => new URL(one).pathname),
    );
    expect(rows.length).toBeGreaterThan(10);
    for (const { address, visited, cells } of rows) {
      const { outcome, hops } = cells['gale']!;
      const url = site + visited;
      // Crawlers see redirects, and what is not to be listed says so itself.
      expect([address, open!.isAllowed(url, 'anybot')]).toEqual([address, true]);
      if (outcome === 'reach' && hops === 0 && !isUnlisted(text, address))
        expect([address, closing!.isAllowed(url, 'anybot')]).toEqual([address, true]);
      if (outcome === 'sign-in' || outcome === 'block')
        expect([address, closing!.isAllowed(url, 'anybot')]).toEqual([address, false]);
      const isOpen = outcome === 'reach' && hops === 0 && !isUnlisted(text, address);
      if (!/:|\(|\/\*$/.test(address))
        expect([address, listed.has(new URL(url).pathname)]).toEqual([address, isOpen]);
    }
    for (const closed of ['trustees', 'register', 'hidden', 'crew', 'draft'])
      expect(robots.out).not.toContain(closed);
    expect(robots.out).toBe(`User-agent: *\nAllow: /\n\nSitemap: ${site}/sitemap.xml\n`);
    expect(robots.err).toBe('');
    expect(revealing.err).toContain('tells everyone which sections are closed');
  });

  function isUnlisted(text: string, address: string): boolean {
    const key = address.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
    return new RegExp(`^ {2}['"]?${key}['"]?: .*listed: no`, 'm').test(text);
  }

  function withGuest(file: string): string {
    return write(
      'guest.site.yaml',
      `${readFileSync(file, 'utf8')}visitors: { gale: { guest: yes } }\n`,
    );
  }
});

describe('redirects as CSV', () => {
  test('what was written is read back as known, and nothing is to be done', async () => {
    const csv = write('out.csv', (await kleidon(['export', 'redirects', '--file', SAMPLE])).out);
    const proposal = await json<proposals.RedirectsProposal>([
      'import',
      'csv',
      'redirects',
      csv,
      '--file',
      SAMPLE,
    ]);
    expect(proposal).toMatchObject({ additions: [], changes: [], known: 15, refused: [] });
  });

  test('says line by line what is added, changed and refused, and writes it when it is to', async () => {
    const text = readFileSync(SAMPLE, 'utf8');
    const file = write('r.site.yaml', text);
    const csv = write(
      'moved.csv',
      [
        'Status;New address;Old address;Why',
        '301;/sightings;/birds;renamed in 2025',
        '302;/about;/birds-2;',
        '301;/visit;/hides;moved',
        '301;/x;/birds-2;again',
        '301;/x/:gone;/y/:here;',
        'maybe;/x;/z;',
        '301;;/empty;',
        '302;/about;/birds-3;',
      ].join('\n'),
    );
    const command = ['import', 'csv', 'redirects', csv, '--file', file];
    const dry = await kleidon([...command, '--dry-run']);
    expect(dry.code).toBe(1);
    expect(dry.out.split('\n')).toEqual([
      '+ redirect /birds-3 from: /birds-3, to: /about, kind: temporary',
      expect.stringMatching(/^~ redirect \/hides .* becomes .*note: moved/),
      '! line 3: /birds-2 Line 5 leads from the same address to another one: keep one of them.',
      '! line 5: /birds-2 Line 3 leads from the same address to another one: keep one of them.',
      expect.stringMatching(/^! line 6: \/y\/:here "to" uses ":gone"/),
      expect.stringMatching(
        /^! line 7: \/z "kind" must be permanent or temporary|^! line 7: \/z "kind" must be/,
      ),
      expect.stringMatching(/^! line 8: \/empty "to" is missing/),
      '1 redirect to add, 1 to change; 1 already there, 0 of other hosts, 5 refused',
      `Nothing was written to ${file}.`,
      '',
    ]);
    expect(readFileSync(file, 'utf8')).toBe(text);
    await kleidon([...command, '--write']);
    const written = readFileSync(file, 'utf8');
    expect(written).toContain('{ from: /hides, to: /visit, kind: permanent, note: moved }\n');
    expect(written).toContain('  - { from: /birds-3, to: /about, kind: temporary }\n');
    expect(written.match(/#.*$/gm)).toEqual(text.match(/#.*$/gm));
    expect((await kleidon(['check', '--file', file])).out).toContain('0 errors');
  });
});
