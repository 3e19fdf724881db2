import fc from 'fast-check';
import { formats, proposals, purchases, queries, siteFiles } from '../src/index.ts';
import { regexpSource } from '../src/pattern/regexp.ts';
import { siteOf, NOW } from './support.ts';

/** Texts as people write them, with all that has a meaning in YAML, CSV, spreadsheets, patterns and addresses. */
const words = (extra: readonly string[], maxLength = 6): fc.Arbitrary<string> =>
  fc
    .array(
      fc.oneof(
        fc.constantFrom(
          ...extra,
          'a',
          'Zoë',
          '7',
          '=1+1',
          '-',
          '+',
          '@',
          "'",
          '"',
          ',',
          ';',
          '#',
          '.',
        ),
        fc.string({ unit: 'grapheme', maxLength: 3 }),
      ),
      { minLength: 1, maxLength },
    )
    .map((pieces) => pieces.join(''));
const note = words([
  '\n',
  '\r\n',
  '\r',
  '\t',
  ' ',
  '  ',
  ': ',
  ' #',
  '|',
  '\u00a0',
  '\ufeff',
  '- ',
  '{',
  '%',
]);
const piece = words(
  [
    '_',
    '~',
    '(',
    ')',
    '\\(',
    '\\)',
    ':x',
    '{:x}',
    '*',
    '\\*',
    '\\:',
    'é',
    '%20',
    '%',
    '!',
    '$',
    '&',
  ],
  4,
);
const day = fc
  .date({ min: new Date(0), max: new Date('9999-12-31'), noInvalidDate: true })
  .map((at) => at.toISOString());

const redirect = fc.record(
  {
    // `/**` comes back as `/{*}*`, which matches the same.
    from: piece.filter((text) => !/\*[*+?]/.test(text)).map((text) => `/${text}`),
    to: fc.oneof(
      piece.map((text) => `/to/${text}`),
      fc.constantFrom('https://else.example/x?y=1#z', '/:x', '/t/*'),
    ),
    kind: fc.constantFrom('permanent', 'temporary', 301, 302, 303, 307, 308),
    query: fc.constantFrom('keep', 'drop'),
    when: fc.constantFrom(
      'role a',
      'guest or not bought p',
      'visitor.town = "Ayr, \\"Oban\\""',
      '( guest )',
    ),
    since: fc.oneof(day, fc.constantFrom('2027-03-01', '2027-03-01 09:30')),
    'unless-page': fc.constantFrom('yes', 'no', true, false),
    'keep-for': fc.constantFrom('5m', '24 h'),
    note: note.filter((text) => text !== ''),
    rank: fc.integer({ min: -5, max: 5 }),
  },
  { requiredKeys: ['from', 'to'] },
);

const HEAD = {
  kleidon: 1,
  site: { name: 'R', address: 'https://r.example', 'time-zone': 'Europe/London' },
  roles: { a: 'A' },
  products: { p: { title: 'P' } },
};
type Parts = Parameters<typeof regexpSource>[0];
/** A group that stands once changes nothing. */
const BRACES = /\(\?:((?:[^()\\]|\\.|\([^?][^()]*\))*)\)(?![?*+])/g;

const redirectsOf = (text: string) => {
  const read = siteFiles.readSite(text, 'x');
  if (!read.ok) return null;
  // An address may come back with other escapes or braces, and means the same.
  const meant = (_: string, value: unknown): unknown =>
    typeof value === 'object' && value !== null && 'parts' in value && 'names' in value
      ? { matches: regexpSource(value.parts as Parts).replace(BRACES, '$1'), names: value.names }
      : value;
  return read.site.redirects.map(
    ({ place: _, source: __, to: { text: ___, ...to }, ...rest }) =>
      JSON.parse(JSON.stringify({ ...rest, to }, meant)) as unknown,
  );
};

const TRIPS = Number(process.env['KLEIDON_TRIPS'] ?? 300);

describe('what is exported comes back as it was', () => {
  test('redirects as CSV', () => {
    let trips = 0;
    fc.assert(
      fc.property(
        fc.uniqueArray(redirect, {
          minLength: 1,
          maxLength: 4,
          selector: ({ from }) => from.toLowerCase(),
        }),
        (redirects) => {
          const before = redirectsOf(JSON.stringify({ ...HEAD, redirects }));
          if (before === null) return;
          trips++;
          const rows = redirects.map(siteFiles.redirectForList) as unknown as Record<
            string,
            string
          >[];
          const csv = formats.writeTable(rows, siteFiles.REDIRECT_COLUMNS);
          const empty = JSON.stringify(HEAD);
          const proposal = proposals.proposeRedirectsFromCsv(siteFiles.valueOf(empty), csv);
          expect(queries.explainProposal(proposal).refused).toEqual([]);
          expect(redirectsOf(proposals.withProposed(empty, proposal))).toEqual(before);
        },
      ),
      { numRuns: TRIPS },
    );
    expect(trips).toBeGreaterThan(TRIPS / 10);
  });

  test('purchases as CSV', () => {
    const name = note.filter((text) => purchases.readVisitorId(text).ok);
    const at = fc.option(day.map((text) => Date.parse(text)));
    const purchase = fc.record({
      shop: note,
      purchase: note.filter((text) => text.trim() !== ''),
      product: note.filter((text) => text.trim() !== ''),
      email: fc.option(fc.constantFrom('ada@x.example', "o'brien+=@x.example", '=cmd@x.example')),
      visitor: name,
      from: at,
      until: at,
      state: fc.constantFrom(...purchases.LISTED_STATES),
    });
    fc.assert(
      fc.property(
        fc.uniqueArray(purchase, { minLength: 1, selector: ({ purchase: id }) => id }),
        (rows) => {
          const read = purchases.readPurchases(purchases.writePurchases(rows), 'Europe/London');
          expect(read.refused).toEqual([]);
          expect(read.rows.map(({ line: _, ...rest }) => rest)).toEqual(
            rows.map(({ shop: _, ...rest }) => rest),
          );
        },
      ),
      { numRuns: TRIPS },
    );
  });

  test('pages as a sitemap', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(
          piece.map((text) => `/s/${text}`),
          { minLength: 1 },
        ),
        (addresses) => {
          const body = JSON.stringify({
            pages: Object.fromEntries(addresses.map((one) => [one, {}])),
          });
          let site;
          try {
            site = siteOf(body.slice(1, -1));
          } catch {
            return;
          }
          const [file] = queries.writeSitemaps(site, NOW);
          const read = formats.readSitemap(file!.text);
          expect(
            proposals.proposePages(
              site,
              read.locations.map((address) => ({ address })),
            ),
          ).toMatchObject({ additions: [], refused: [], elsewhere: 0 });
        },
      ),
      { numRuns: TRIPS },
    );
  });

  const INVISIBLE = /[\p{Cc}\p{Default_Ignorable_Code_Point}]/u;

  test('pages and visitors of a spreadsheet', () => {
    const title = note.filter((text) => text !== '');
    const page = fc.record(
      {
        address: piece.map((text) => `/p/${text}`),
        title,
        kind: fc.constantFrom('document', 'file'),
        draft: fc.constantFrom('yes', 'no'),
        from: day,
        'leads-to': fc.constantFrom('/x', 'https://else.example/=1'),
      },
      { requiredKeys: ['address', 'title'] },
    );
    const visitor = fc.record(
      {
        name: title.filter((text) => text.trim() !== ''),
        title,
        roles: fc.constantFrom('a', 'a; b', 'b|a'),
        bought: fc.constantFrom('p', 'p 2026-05-01..2027-05-01', 'p ..2027-05-01 | p'),
        language: fc.constantFrom('gd', 'en-GB'),
      },
      { requiredKeys: ['name', 'title'] },
    );
    const site = { ...HEAD, roles: { a: 'A', b: 'B' } };
    const text = JSON.stringify(site);
    const prepared = siteOf('', `${text}\n`);
    const unique = <T>(of: fc.Arbitrary<T>, selector: (one: T) => string) =>
      fc.uniqueArray(of, { minLength: 1, maxLength: 4, selector });
    fc.assert(
      fc.property(
        unique(page, ({ address }) => address.toLowerCase().replace(/\/+$/, '')),
        unique(visitor, ({ name }) => name),
        (pages, visitors) => {
          const csv = formats.writeTable(pages, [
            ...['address', 'title', 'kind', 'draft', 'from', 'leads-to'],
          ] as 'address'[]);
          const proposal = proposals.proposePagesFromCsv(prepared, siteFiles.valueOf(text), csv);
          // Whatever is not refused is taken as it was written.
          expect(proposal.additions.length + proposal.refused.length).toBe(pages.length);
          const values = pages.map(({ address: _, ...rest }) =>
            Object.keys(rest).length === 1 ? rest.title : rest,
          );
          for (const { value } of proposal.additions) expect(values).toContainEqual(value);
          const people = proposals.proposeVisitorsFromCsv(
            siteFiles.valueOf(text),
            formats.writeTable(visitors, [
              'name',
              'title',
              'roles',
              'bought',
              'language',
            ] as 'name'[]),
          );
          // Names that nobody can tell apart are refused, and nothing else is.
          const refused = new Set(people.refused.map(({ what }) => what));
          for (const { what, problem } of people.refused)
            expect(INVISIBLE.test(what) || JSON.stringify(problem).includes('look-alike')).toBe(
              true,
            );
          for (const { name } of visitors)
            if (INVISIBLE.test(name)) expect(refused).toContain(name);
          const written = siteFiles.readSite(
            proposals.withProposed(text, { additions: people.additions }),
            'x',
          );
          // Names of digits come first in a map.
          const told = written.ok ? written.site.visitors : [];
          for (const { name, title: said, language = null } of visitors)
            if (!refused.has(name))
              expect(told.find((one) => one.name === name)).toMatchObject({
                title: said,
                language,
              });
        },
      ),
      { numRuns: TRIPS },
    );
  });
});
