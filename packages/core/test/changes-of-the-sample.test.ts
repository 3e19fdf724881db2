import { comparedStates, visitDifferences } from '../src/comparison/compare-states.ts';
import { datesOf } from '../src/everywhere/stretches.ts';
import { exampleOfRedirect } from '../src/pattern/example.ts';
import { decisions, queries, siteFiles, type model } from '../src/index.ts';
import { isDiffering, isTold } from './reference/differing.ts';
import { randomBy } from './reference/random-site.ts';
import { GUEST, NOW, sampleSite, sampleText, someone } from './support.ts';

/** As many changes as are tried; more are wanted outside of the suite. */
const CHANGES = Number(process.env['KLEIDON_CHANGES'] ?? 12);
const SEED = Number(process.env['KLEIDON_SEED'] ?? 1);

type Value = Record<string, unknown>;
const isObject = (value: unknown): value is Value =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** Visitors with everything that the sample site asks about, alone and two at a time. */
function visitors(): model.Visitor[] {
  const { roles, groups, products } = sampleSite().site;
  const bought = (product: string, until: number | null) => ({
    product,
    from: null,
    until,
    refunded: false,
    paused: false,
  });
  const traits: Partial<model.Visitor>[] = [
    ...Object.keys(roles).map((role) => ({ roles: [role] })),
    ...Object.keys(groups).map((group) => ({ groups: [group] })),
    ...Object.keys(products).flatMap((product) => [
      { bought: [bought(product, null)] },
      { bought: [bought(product, 0)] },
    ]),
    { id: 'vik' },
  ];
  const both = (one: Partial<model.Visitor>, other: Partial<model.Visitor>): model.Visitor =>
    someone({
      ...one,
      ...other,
      roles: [...(one.roles ?? []), ...(other.roles ?? [])],
      groups: [...(one.groups ?? []), ...(other.groups ?? [])],
      bought: [...(one.bought ?? []), ...(other.bought ?? [])],
    });
  return [
    GUEST,
    someone(),
    ...traits.flatMap((one, i) =>
      traits.slice(i).map((other) => both(one, other === one ? {} : other)),
    ),
  ];
}

/** A site file with one thing in it changed: an entry or a field left out, or another value in its place. */
function changed(random: () => number): [text: string, what: string] {
  const one = <T>(of: readonly T[]): T => of[Math.floor(random() * of.length)]!;
  const site = siteFiles.valueOf(sampleText()) as Value;
  const section = one([
    ...['pages', 'pages', 'gates', 'gates', 'gates', 'redirects', 'redirects', 'rewrites'],
    ...['not-found', 'landings', 'parts', 'menus', 'audiences', 'products', 'site', 'roles'],
    ...['visits', 'accepted', 'visitors'],
  ]);
  const entries = site[section] as Value | unknown[];
  const key = one(Object.keys(entries));
  const addresses = ['/about', '/crew', '/join', '/members', '/nowhere', '/permit'];
  const conditions = [
    'role member',
    'signed-in',
    'anyone',
    'crew',
    'bought field-guide',
    'not guest',
  ];
  const yesOrNo = (value: unknown): unknown => (value === 'yes' || value === true ? 'no' : 'yes');
  const otherValue = (name: string, value: unknown): unknown => {
    if (['admit', 'when', 'who', 'missing-unless', 'full-access'].includes(name))
      return one(conditions);
    if (['to', 'go', 'show', 'serve', 'sign-in', 'buy-at', 'leads-to'].includes(name))
      return one(addresses);
    if (['until', 'from'].includes(name) && /^\d/.test(String(value))) return '2027-05-20';
    if (['narrows', 'unless-page', 'canonical', 'return-first', 'draft', 'listed'].includes(name))
      return yesOrNo(value);
    return typeof value === 'string' ? `${value} indeed` : value;
  };
  const entry = (entries as Value)[key];
  const edit = (): void => {
    if (section === 'audiences' || !isObject(entry) || random() < 0.3) {
      if (Array.isArray(entries)) entries.splice(Number(key), 1);
      else if (section === 'audiences')
        entries[key] = one(conditions.filter((one) => one !== 'crew'));
      else if (section === 'site') entries[key] = otherValue(key, entry);
      else Reflect.deleteProperty(entries, key);
      return;
    }
    const field = one(Object.keys(entry));
    if (random() < 0.3) Reflect.deleteProperty(entry, field);
    else if (Array.isArray(entry[field]) && random() < 0.7) {
      const step = one(entry[field] as unknown[]);
      if (isObject(step)) {
        const name = one(Object.keys(step));
        step[name] = otherValue(name, step[name]);
      } else entry[field] = (entry[field] as unknown[]).slice(1);
    } else entry[field] = otherValue(field, entry[field]);
  };
  edit();
  return [JSON.stringify(site), `${section} ${key}`];
}

test('a change that affects anyone is told with those whom it affects, and any other as without effect', () => {
  const random = randomBy(SEED);
  const everyone = visitors();
  const readable = (text: string): decisions.PreparedSite | null => {
    const read = siteFiles.readSite(text, 'changed.yaml');
    return read.ok ? decisions.prepareSite(read.site) : null;
  };
  const before = readable(JSON.stringify(siteFiles.valueOf(sampleText())))!;
  const counts = { affecting: 0, without: 0 };
  for (let tried = 0; tried < CHANGES;) {
    const [text, what] = changed(random);
    const after = readable(text);
    if (after === null || JSON.stringify(after.site) === JSON.stringify(before.site)) continue;
    tried++;
    const both = [before, after] as const;
    const fail = (why: string, more: unknown): never => {
      throw new Error(`${what}: ${why} ${JSON.stringify(more)}`);
    };
    const { differences, notCompared } = visitDifferences(comparedStates(before, after, NOW));
    expect(notCompared).toEqual([]);
    const dates = both.flatMap(({ site }) => datesOf(site));
    const moments = [NOW, ...new Set(dates.filter((date) => date > NOW))];
    const addresses = new Set([
      ...both.flatMap(({ site }) => [
        ...site.pages.flatMap(({ example, aliases }) => [example, ...aliases]),
        ...site.redirects.map(exampleOfRedirect),
      ]),
      ...['/nowhere', '/crew/nowhere', '/blog/x', '/song-course/99', '/my/vik/report.pdf'],
    ]);
    let isAffecting = false;
    for (const at of moments)
      for (const address of addresses)
        for (const method of ['GET', 'POST'])
          for (const visitor of everyone) {
            const asked = { address, method, visitor, at };
            if (!isDiffering(both, asked)) continue;
            isAffecting = true;
            if (!isTold(both, differences, asked)) fail('not told', asked);
          }
    const said = queries.compareSites(before, after, NOW);
    counts[said.differences.length > 0 ? 'affecting' : 'without']++;
    if (isAffecting && differences.length === 0) fail('told as without effect', what);
    for (const { witness, kind, about } of said.differences) {
      if (witness === null || !['page', 'other-address', 'redirect', 'undeclared'].includes(kind))
        continue;
      const { address, method, at } = witness;
      const visitor = queries.chooseVisitor(after, { visitor: witness.visitor });
      if (!isDiffering(both, { address, method, visitor, at: Date.parse(at) }))
        fail('its witness meets the same', [kind, about, witness]);
    }
    // One change was made, and it is the cause of all; an entry with another name is one gone and one new.
    const causes = said.changes.map(({ differences: all }) => all);
    if (causes.length !== 2)
      expect([what, causes]).toEqual([what, causes.length === 0 ? [] : [said.differences.length]]);
    if (causes.length === 0) expect(said.differences).toEqual([]);
  }
  expect(counts.affecting).toBeGreaterThan(CHANGES / 4);
  expect(counts.without).toBeGreaterThan(0);
});
