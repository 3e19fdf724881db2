import type { Condition } from '../condition/condition.ts';
import { isTimeZone } from '../time/instant.ts';
import { exampleOf } from './example.ts';
import { FieldReader } from './field-reader.ts';
import type { ErrorList, Path, SiteDocument } from './document.ts';
import type { Entries, EntryOf } from './entries.ts';
import { isYes } from './schema.ts';
import type {
  Accepted,
  Landing,
  Menu,
  SitePart,
  Extent,
  Gate,
  NotFoundRule,
  Otherwise,
  Page,
  Product,
  Site,
} from './site.ts';
import { buildList, buildRedirect } from './build-redirect.ts';
import type { ListOf } from './redirect-list.ts';
import { asList } from './as-list.ts';
import { buildTidy, checkAliases, checkTidy } from './build-tidy.ts';
import { buildRewrite } from './build-rewrite.ts';
import { buildVisitor } from './build-visitor.ts';

/**
 * Builds a site from entries of the right shape: reads conditions, patterns and dates, looks every
 * name up, and fills in the defaults. Errors go to `list`; what has one is left out.
 */
export function buildSite(
  entries: Entries,
  document: SiteDocument,
  list: ErrorList,
  listOf: ListOf,
): Site | null {
  const products = Object.fromEntries(
    entries.products.map(([key, { title, term, 'buy-at': buyAt }]): [string, Product] => [
      String(key),
      { title: title ?? String(key), term: term ?? 'once', buyAt: buyAt ?? null },
    ]),
  );
  const names = {
    role: entries.defined.roles,
    group: entries.defined.groups,
    product: entries.defined.products,
    audience: entries.defined.audiences,
  };
  const timeZone = entries.site?.['time-zone'] ?? 'UTC';
  if (!isTimeZone(timeZone)) {
    list.atValue(
      'wrong-value',
      ['site', 'time-zone'],
      `"${timeZone}" is not a time zone.`,
      'Write a name such as Europe/London.',
    );
    return null;
  }
  const tidy = buildTidy(entries.site?.tidy);
  const read = new FieldReader(list, document, names, timeZone, tidy);
  const homes = (entries.site?.tidy?.index ?? []).filter((one) => one.startsWith('/'));
  checkTidy(entries.site?.tidy, read);

  for (const [key, { 'buy-at': buyAt }] of entries.products) {
    if (buyAt !== undefined) read.address(buyAt, ['products', key, 'buy-at']);
  }
  const audiences = buildAudiences(entries.audiences, read, list);
  const pages = buildPages(entries.pages, read, document, list);
  checkAliases(pages, homes, read, list);
  const gates = entries.gates.map(([key, entry]) => buildGate(String(key), entry, read, document));
  const redirects = [
    ...entries.redirects.flatMap(
      ([key, entry]) => buildRedirect(Number(key), entry, read, document) ?? [],
    ),
    ...entries['redirect-lists'].flatMap(([key, name]) =>
      buildList(Number(key), name, listOf, read),
    ),
  ];
  const servers = asList(entries.site?.servers).flatMap((text, position) => {
    const path =
      typeof entries.site?.servers === 'string'
        ? ['site', 'servers']
        : ['site', 'servers', position];
    const server = read.origin(text, path);
    return server ? `${server.protocol}//${server.host}` : [];
  });
  const rewrites = entries.rewrites.flatMap(
    ([key, entry]) => buildRewrite(Number(key), entry, servers, read, document) ?? [],
  );
  const notFound = entries['not-found'].flatMap(
    ([key, entry]) => buildNotFound(Number(key), entry, read, document) ?? [],
  );
  const visitors = entries.visitors.map(([key, entry]) =>
    buildVisitor(String(key), entry, ['visitors', key], read),
  );
  const site = entries.site;
  if (!site) return null;
  const home = read.origin(site.address, ['site', 'address']);
  const also = asList(site.also).flatMap((text, position) => {
    const path = typeof site.also === 'string' ? ['site', 'also'] : ['site', 'also', position];
    return read.origin(text, path)?.host ?? [];
  });
  const signIn = site['sign-in'] ?? null;
  if (signIn !== null) read.address(signIn, ['site', 'sign-in']);
  const fullAccess = site['full-access'];
  return {
    name: site.name,
    protocol: home?.protocol ?? 'https:',
    host: home?.host ?? '',
    also,
    ungated: site.ungated ?? 'open',
    change: site.change ?? 'as-view',
    signIn,
    fullAccess:
      fullAccess === undefined ? null : read.condition(fullAccess, ['site', 'full-access']),
    timeZone,
    tidy,
    homes,
    roles: descriptions(entries.roles),
    groups: descriptions(entries.groups),
    products,
    audiences,
    pages,
    gates,
    redirects,
    rewrites,
    servers,
    notFound,
    landings: entries.landings.map(([key, entry]) =>
      buildLanding(Number(key), entry, read, document),
    ),
    parts: entries.parts.map(([key, { admit }]): SitePart => {
      const path = ['parts', key];
      return {
        name: String(key),
        admit: read.condition(admit, [...path, 'admit']),
        place: document.keyAt(path),
      };
    }),
    menus: entries.menus.map(([key, entry]) => buildMenu(String(key), entry, read, document)),
    accepted: entries.accepted.map(([key, { finding, about, note }]): Accepted => ({
      finding,
      about: about ?? null,
      note,
      place: document.valueAt(['accepted', key]),
    })),
    visitors,
    place: document.keyAt(['site']),
  };
}

const descriptions = (
  entries: readonly (readonly [string | number, string | null | undefined])[],
) => Object.fromEntries(entries.map(([key, text]) => [String(key), text ?? '']));

function buildAudiences(
  entries: Entries['audiences'],
  read: FieldReader,
  list: ErrorList,
): Record<string, Condition> {
  const audiences: Record<string, Condition> = {};
  for (const [key, text] of entries) {
    read.freeWord(String(key), ['audiences', key]);
    audiences[String(key)] = read.condition(text, ['audiences', key]);
  }
  for (const name of Object.keys(audiences)) {
    const circle = circleFrom(name, audiences);
    if (!circle) continue;
    list.atValue(
      'audience-circle',
      ['audiences', name],
      `This audience is defined by itself: ${circle.join(' → ')}.`,
      'Take one of them out of the other.',
    );
    // Cut, so that nothing that looks into audiences can go round and round.
    audiences[name] = { is: 'nobody' };
  }
  return audiences;
}

function circleFrom(name: string, audiences: Readonly<Record<string, Condition>>): string[] | null {
  const seen = new Set<string>();
  const follow = (at: string, trail: string[]): string[] | null => {
    if (at === name && trail.length > 0) return [...trail, at];
    if (seen.has(at)) return null;
    seen.add(at);
    const condition = audiences[at];
    if (!condition) return null;
    for (const next of audiencesIn(condition)) {
      const circle = follow(next, [...trail, at]);
      if (circle) return circle;
    }
    return null;
  };
  return follow(name, []);
}

function audiencesIn(condition: Condition): string[] {
  if (condition.is === 'audience') return [condition.name];
  if (condition.is === 'not') return audiencesIn(condition.of);
  return condition.is === 'and' || condition.is === 'or' ? condition.of.flatMap(audiencesIn) : [];
}

function buildPages(
  entries: Entries['pages'],
  read: FieldReader,
  document: SiteDocument,
  list: ErrorList,
): Page[] {
  const pages: Page[] = [];
  const claimed = new Map<string, string>();
  for (const [key, entry] of entries) {
    const address = String(key);
    const path: Path = ['pages', address];
    const pattern = read.pagePattern(address, path);
    if (!pattern) continue;
    const form = read.matchFormOf(pattern);
    const other = claimed.get(form);
    if (other !== undefined) {
      list.atKey(
        'same-address',
        path,
        `"${address}" and "${other}" are the same address.`,
        'Remove one of the two.',
      );
      continue;
    }
    claimed.set(form, address);
    const missingUnless =
      entry['missing-unless'] === undefined
        ? null
        : read.condition(entry['missing-unless'], [...path, 'missing-unless'], pattern);
    const leadsTo = entry['leads-to'] ?? null;
    if (leadsTo !== null) read.address(leadsTo, [...path, 'leads-to']);
    if (entry.example !== undefined) read.example(entry.example, pattern, [...path, 'example']);
    const aliases = asList(entry.aliases);
    pages.push({
      address,
      aliases,
      pattern,
      title: entry.title ?? titleFrom(address),
      kind: entry.kind ?? 'document',
      missingUnless,
      ...read.period(entry.from, entry.until, path),
      draft: isYes(entry.draft),
      leadsTo,
      https: entry.https === 'required',
      refresh: read.seconds(entry.refresh, [...path, 'refresh']),
      listed: entry.listed === undefined || isYes(entry.listed),
      example: entry.example ?? exampleOf(pattern, missingUnless),
      place: document.keyAt(path),
    });
  }
  return pages;
}

const titleFrom = (address: string): string => address.split('/').filter(Boolean).at(-1) ?? 'Home';

function buildGate(
  name: string,
  entry: EntryOf<'gates'>,
  read: FieldReader,
  document: SiteDocument,
): Gate {
  const path: Path = ['gates', name];
  const extents = (['under', 'at'] as const).flatMap((field) =>
    asList(entry[field]).flatMap((text, position): Extent[] => {
      const place =
        typeof entry[field] === 'string' ? [...path, field] : [...path, field, position];
      const pattern = read.pagePattern(text, place);
      return pattern ? [{ pattern, under: field === 'under' }] : [];
    }),
  );
  // A piece may be used only when every address of the gate has it; otherwise it would be absent for some.
  const [first] = extents;
  const shared = first?.pattern.names.filter((piece) =>
    extents.every(({ pattern }) => pattern.names.includes(piece)),
  );
  return {
    name,
    extents,
    right: entry.right ?? 'view',
    admit: read.condition(entry.admit, [...path, 'admit'], { names: shared ?? [] }),
    otherwise: (entry.otherwise ?? []).map((step, position): Otherwise => {
      const at = [...path, 'otherwise', position];
      const who =
        step.who === undefined
          ? { is: 'anyone' as const }
          : read.condition(step.who, [...at, 'who']);
      read.onlyWith(step, { say: 'refuse', show: 'refuse', to: 'send' }, at);
      if (step.do === 'refuse') {
        if (step.show !== undefined) read.localAddress(step.show, [...at, 'show']);
        return { who, do: 'refuse', say: step.say ?? null, show: step.show ?? null };
      }
      if (step.do === 'send') {
        read.needs(step.to, 'to', 'to: /join', at);
        if (step.to !== undefined) read.address(step.to, [...at, 'to']);
        return { who, do: 'send', to: step.to ?? '/' };
      }
      return { who, do: step.do };
    }),
    ...read.period(entry.from, entry.until, path),
    narrows: isYes(entry.narrows),
    rank: entry.rank ?? 0,
    place: document.keyAt(path),
  };
}

function buildLanding(
  position: number,
  entry: EntryOf<'landings'>,
  read: FieldReader,
  document: SiteDocument,
): Landing {
  const path: Path = ['landings', position];
  read.localAddress(entry.go, [...path, 'go']);
  return {
    after: entry.after,
    who: entry.who === undefined ? { is: 'anyone' } : read.condition(entry.who, [...path, 'who']),
    go: entry.go,
    returnFirst: isYes(entry['return-first']),
    rank: entry.rank ?? 0,
    place: document.valueAt(path),
  };
}

function buildMenu(
  name: string,
  entry: EntryOf<'menus'>,
  read: FieldReader,
  document: SiteDocument,
): Menu {
  const path: Path = ['menus', name];
  const list = (field: 'links' | 'on', check: (text: string, at: Path) => void) =>
    asList(entry[field]).map((text, position) => {
      check(text, typeof entry[field] === 'string' ? [...path, field] : [...path, field, position]);
      return text;
    });
  return {
    name,
    links: list('links', (text, at) => read.address(text, at)),
    on: list('on', (text, at) => read.localAddress(text, at)),
    onlyUsable: entry.shows === 'usable',
    place: document.keyAt(path),
  };
}

function buildNotFound(
  position: number,
  entry: EntryOf<'not-found'>,
  read: FieldReader,
  document: SiteDocument,
): NotFoundRule | null {
  const path: Path = ['not-found', position];
  const pattern = read.pagePattern(entry.under, [...path, 'under']);
  if (!pattern) return null;
  if (entry.show !== undefined) read.localAddress(entry.show, [...path, 'show']);
  return {
    name: entry.under,
    extent: { pattern, under: true },
    show: entry.show ?? null,
    say: entry.say ?? null,
    status: entry.status ?? 404,
    rank: entry.rank ?? 0,
    place: document.valueAt(path),
  };
}
