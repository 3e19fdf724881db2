import type { Redirect, Site } from '../model/site.ts';
import { changeOf, type Entry, type EntryChanges } from './entry.ts';

/**
 * Compares the redirects of two states, of which there may be a hundred thousand: those that are the same are found without writing
 * them down, and stand in the entries after alone.
 */
export function redirectChanges(before: Site, after: Site): EntryChanges {
  const left = new Map<string, Redirect[]>();
  for (const redirect of before.redirects) {
    const same = left.get(redirect.source);
    if (same) same.push(redirect);
    else left.set(redirect.source, [redirect]);
  }
  const others = after.redirects.filter((redirect) => {
    const candidates = left.get(redirect.source) ?? [];
    const found = candidates.findIndex((one) => isSameRedirect(one, redirect));
    if (found !== -1) candidates.splice(found, 1);
    return found === -1;
  });
  const changes = others.map((redirect) => {
    const old = left.get(redirect.source)?.shift();
    return changeOf(old && redirectEntry(before, old), redirectEntry(after, redirect));
  });
  const removed = [...left.values()]
    .flat()
    .map((redirect) => changeOf(redirectEntry(before, redirect), undefined));
  const all = [...changes, ...removed];
  const differing = new Set(others);
  const ofState = (place: 'before' | 'after'): Entry[] =>
    all.flatMap(({ entries, [place]: at }) => entries.filter((one) => one.place === at));
  return {
    before: ofState('before'),
    after: [
      ...after.redirects
        .filter((redirect) => !differing.has(redirect))
        .map((redirect) => redirectEntry(after, redirect)),
      ...ofState('after'),
    ],
    changes: all,
  };
}

/** What follows from other fields: what a redirect is from tells its pattern, and what the query must have. */
const DERIVED: readonly string[] = ['place', 'pattern', 'queryConstraints', 'inverseOf', 'to'];

function isSameRedirect(one: Redirect, other: Redirect): boolean {
  if (one.to.text !== other.to.text) return false;
  for (const key of Object.keys(one) as (keyof Redirect)[]) {
    if (DERIVED.includes(key) || one[key] === other[key]) continue;
    if (JSON.stringify(one[key]) !== JSON.stringify(other[key])) return false;
  }
  return true;
}

const redirectEntry = (site: Site, redirect: Redirect): Entry => ({
  section: 'redirects',
  name: redirect.source,
  says: '',
  place: redirect.place,
  ...dividedByHost(site, redirect),
  conditions: redirect.when === null ? [] : [redirect.when],
  includes: [],
  offers: false,
  unlessPage: redirect.unlessPage,
});

/** Where a redirect is asked and where it leads, on the site's own hosts and on others. */
function dividedByHost(
  site: Site,
  { host, pattern, to }: Redirect,
): Pick<Entry, 'scopes' | 'targets' | 'hosted'> {
  const scopes = [{ pattern, under: false }];
  const isAway = host !== null && host !== site.host;
  const leavesSite = to.origin !== null && !isOwn(site, to.origin);
  return {
    scopes: isAway ? [] : scopes,
    targets: leavesSite ? [] : [to.path],
    hosted:
      isAway || leavesSite
        ? { scopes: isAway ? scopes : [], targets: leavesSite ? [to.path] : [] }
        : null,
  };
}

const isOwn = ({ host, also }: Site, origin: string): boolean =>
  [host, ...also].includes(origin.replace(/^https?:\/\//, ''));
