import { normalizePath } from '../address/tidy.ts';
import { addressOf, Starts } from '../everywhere/starts.ts';
import { addressesOfPage } from '../explore/address-set.ts';
import type { Explorer } from '../explore/explorer.ts';
import { familyOf, type Family } from '../explore/families.ts';
import { literalOf } from '../model/pattern.ts';
import type { Page, Redirect, Scope, Site } from '../model/site.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { rulesAt } from '../pattern/pattern-index.ts';
import type { Affected } from './affected.ts';

/** What is at some addresses, all of which the rules of both states treat alike. */
export interface Place {
  readonly is: 'page' | 'other-address' | 'redirect' | 'undeclared';
  /** As the site file has it; the example itself for addresses that it does not name. */
  readonly address: string;
  /** Of the page; empty elsewhere. */
  readonly title: string;
  readonly family: Family;
  /** Protocol and host before the path; empty for the site's own. */
  readonly origin: string;
  /** The query behind the path, with its question mark; empty for none. */
  readonly query: string;
}

/** All explorers of each state, by moment; what they say of visitors is made of the same statements. */
export interface StatesExplored {
  readonly before: readonly Explorer[];
  readonly after: readonly Explorer[];
}

export interface ToExplore {
  readonly explored: StatesExplored;
  /** Null where any address may be. */
  readonly affected: Affected | null;
}

/** The places at which two states of a site may differ, each once. */
export interface Places {
  readonly places: readonly Place[];
  /** What has more cases than can be told apart, and was left out: pages, redirects and sections. */
  readonly notCompared: readonly string[];
}

const HERE = { origin: '', query: '' };

/** Finds the places at which two states of a site may differ. */
export function placesOf({ explored: { before, after }, affected }: ToExplore): Places {
  const [was, is] = [before[0]!, after[0]!];
  const tidy = is.prepared.site.tidy;
  const found = new Map<string, Place>();
  const add = (place: Place): void => {
    const key = addressOf(place);
    if (!found.has(key)) found.set(key, place);
  };
  const notCompared: string[] = [];
  const unlessTooMany = <T>(what: string, find: () => readonly T[]): readonly T[] => {
    try {
      return find();
    } catch (error) {
      if (!(error instanceof TooManyCases)) throw error;
      notCompared.push(what);
      return [];
    }
  };
  const mayDiffer = (pattern: Page['pattern']): boolean => affected?.mayMeet(pattern) ?? true;
  const besides = [...after.slice(1), ...before];
  // Where a page is missing, what is said of that differs from one section to the next.
  const cutting = [is, was].flatMap(({ prepared }) =>
    prepared.site.notFound.map(({ scope }) => ({ pattern: scope.pattern, under: true })),
  );

  const addPage = (page: Page, families: readonly Family[]): void => {
    const { address, title } = page;
    for (const family of families) add({ is: 'page', address, title, family, ...HERE });
  };
  for (const page of is.prepared.site.pages)
    if (mayDiffer(page.pattern))
      addPage(
        page,
        unlessTooMany(page.address, () =>
          is.familiesAmong(addressesOfPage(is.prepared, page), cutting, undefined, besides),
        ),
      );
  for (const page of was.prepared.site.pages) {
    if (!mayDiffer(page.pattern)) continue;
    // Its addresses that still belong to a page were looked at as those of that page.
    const addresses = addressesOfPage(was.prepared, page);
    const owns = (path: string): boolean =>
      addresses.owns(path) && rulesAt(is.prepared.pages, path).length === 0;
    const literal = literalOf(page.pattern);
    if (literal === null)
      addPage(
        page,
        unlessTooMany(page.address, () =>
          was.familiesAmong({ ...addresses, owns }, cutting, undefined, [
            ...before.slice(1),
            ...after,
          ]),
        ),
      );
    else if (owns(normalizePath(literal, tidy))) addPage(page, [familyOf(page.example)]);
  }
  for (const { prepared } of [is, was])
    for (const { aliases, title } of prepared.site.pages)
      for (const alias of aliases)
        if (affected?.hasPath(normalizePath(alias, tidy)) ?? true)
          add({ is: 'other-address', address: alias, title, family: familyOf(alias), ...HERE });
  const now = new Starts([...after, ...before]);
  const starts = [now, new Starts([...before, ...after], now)];
  const sources = new Set(is.prepared.site.redirects.map(({ source }) => source));
  [is, was].forEach(({ prepared }, i) => {
    // A redirect that is the same leads to the same address, of which the difference is told.
    for (const redirect of prepared.site.redirects)
      if (i === 1 && sources.has(redirect.source)) continue;
      else if (affected === null || decidesAnew(affected, prepared.site, redirect))
        for (const start of unlessTooMany(redirect.source, () => starts[i]!.ofRedirect(redirect)))
          add({ is: 'redirect', address: redirect.source, title: '', ...start });
  });
  const scopes = scopesOf(affected);
  if (scopes.length > 0 || affected === null)
    for (const one of starts)
      for (const { family, origin, query, of } of [
        ...unlessTooMany('addresses without a page', () => one.undeclared(scopes, cutting)),
        ...unlessTooMany('addresses of rewrites', () => one.ofRewrites()),
      ])
        add({
          is: of !== undefined && sources.has(of) ? 'redirect' : 'undeclared',
          address: origin + (of ?? family.example),
          title: '',
          family,
          origin,
          query,
        });
  const hosts = [was, is].map(({ prepared }) => new Set(prepared.site.also));
  for (const host of [...hosts[0]!, ...hosts[1]!])
    if (hosts.some((own) => !own.has(host))) {
      const [address, origin] = [`https://${host}/`, `https://${host}`];
      add({ is: 'other-address', address, title: '', family: familyOf('/'), origin, query: '' });
    }
  for (const address of otherSpellings(was.prepared.site, is.prepared.site))
    add({ is: 'other-address', address, title: '', family: familyOf(address), ...HERE });
  return { places: [...found.values()], notCompared: [...new Set(notCompared)] };
}

/** Other spellings of the addresses of pages, where the two states do not take the same ones for one address. */
function otherSpellings(was: Site, is: Site): string[] {
  if (JSON.stringify([was.tidy, was.homes]) === JSON.stringify([is.tidy, is.homes])) return [];
  const endings = new Set([was, is].flatMap(({ tidy }) => tidy.endings));
  const names = new Set([was, is].flatMap(({ tidy }) => tidy.index));
  const homes = [was, is].flatMap((one) => one.homes);
  return is.pages.flatMap(({ pattern, example, kind }) => {
    if (literalOf(pattern) === null) return [];
    const base = example.replace(/\/$/, '');
    if (kind === 'file') return [example.toUpperCase()];
    const beneath = [...names].map((name) => `${base}/${name}`);
    if (base === '') return [...homes, ...beneath];
    return [
      base,
      `${base}/`,
      base.toUpperCase(),
      ...[...endings].map((end) => base + end),
      ...beneath,
    ];
  });
}

/** Whether the first answer at some address of a redirect can differ. */
const decidesAnew = (affected: Affected, { host: own }: Site, redirect: Redirect): boolean =>
  affected.isChanged(redirect.place) ||
  ((redirect.host === null || redirect.host === own) && affected.mayDecide(redirect.pattern));

/** Where entries stand that can be asked at addresses that no page has. */
function scopesOf(affected: Affected | null): Scope[] {
  const scopes = [...(affected?.entries ?? [])]
    .filter(({ section }) => ['gates', 'rewrites', 'not-found', 'site'].includes(section))
    // A copy, because a rule is not looked for near its own pattern.
    .flatMap((entry) =>
      entry.scopes.map(({ pattern, under }) => ({ pattern: { ...pattern }, under })),
    );
  return [...new Map(scopes.map((one) => [`${one.under} ${one.pattern.text}`, one])).values()];
}
