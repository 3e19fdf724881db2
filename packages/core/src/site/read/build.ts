import { isTimeZone } from '../../time/instant.ts';
import { FieldReader } from './field-reader.ts';
import type { ErrorList, YamlPath, SiteDocument } from '../yaml/document.ts';
import type { Entries, EntryOf } from '../fields/entries.ts';
import { isYes } from '../fields/schema-kinds.ts';
import type {
  Accepted,
  Landing,
  Menu,
  SitePart,
  NotFoundRule,
  Product,
  Site,
} from '../../model/site.ts';
import { buildList, buildRedirect } from './build-redirect.ts';
import type { ListOf } from './redirect-list.ts';
import { asList } from '../fields/as-list.ts';
import { buildAudiences } from './build-audiences.ts';
import { buildExpectedVisit } from './build-expected-visit.ts';
import { buildGuarantee } from './build-guarantee.ts';
import { buildGate } from './build-gate.ts';
import { buildPages } from './build-pages.ts';
import { buildTidy, checkAliases, checkTidy } from './build-tidy.ts';
import { buildRewrite } from './build-rewrite.ts';
import { buildProduct, checkBundles } from './build-product.ts';
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
  const names = {
    role: entries.defined.roles,
    group: entries.defined.groups,
    product: entries.defined.products,
    audience: entries.defined.audiences,
  };
  const timeZone = entries.site?.['time-zone'] ?? 'UTC';
  if (!isTimeZone(timeZone)) {
    list.atValue(['site', 'time-zone'], { code: 'not-a-time-zone', text: timeZone });
    return null;
  }
  const tidy = buildTidy(entries.site?.tidy);
  const read = new FieldReader(list, names, timeZone, tidy);
  const homes = (entries.site?.tidy?.index ?? []).filter((one) => one.startsWith('/'));
  checkTidy(entries.site?.tidy, read);

  const products = Object.fromEntries(
    entries.products.map(([key, entry]): [string, Product] => [
      String(key),
      buildProduct(String(key), entry, read, document),
    ]),
  );
  checkBundles(products, list);
  const audiences = buildAudiences(entries.audiences, read, list);
  const pages = buildPages(entries.pages, read, document, list);
  checkAliases(pages, read, list);
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
    undeclared: site.undeclared ?? 'missing',
    change: site.change ?? 'as-view',
    signIn,
    fullAccess:
      fullAccess === undefined ? null : read.condition(fullAccess, ['site', 'full-access']),
    fullAccessRight: site['full-access-right'] ?? 'change',
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
    guarantees: entries.guarantees.flatMap(
      ([key, entry]) => buildGuarantee(Number(key), entry, audiences, read, document) ?? [],
    ),
    visits: entries.visits.map(([key, entry]) =>
      buildExpectedVisit(Number(key), entry, visitors, read, document),
    ),
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

function buildLanding(
  position: number,
  entry: EntryOf<'landings'>,
  read: FieldReader,
  document: SiteDocument,
): Landing {
  const path: YamlPath = ['landings', position];
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
  const path: YamlPath = ['menus', name];
  const list = (field: 'links' | 'on', check: (text: string, at: YamlPath) => void) =>
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
  const path: YamlPath = ['not-found', position];
  const pattern = read.pagePattern(entry.under, [...path, 'under']);
  if (!pattern) return null;
  if (entry.show !== undefined) read.localAddress(entry.show, [...path, 'show']);
  return {
    name: entry.under,
    scope: { pattern, under: true },
    show: entry.show ?? null,
    say: entry.say ?? null,
    status: entry.status ?? 404,
    rank: entry.rank ?? 0,
    place: document.valueAt(path),
  };
}
