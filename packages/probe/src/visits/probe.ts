import { CookieJar } from 'tough-cookie';
import { decisions } from '@kleidon/core';
import type { Credentials } from './credentials.ts';
import { signInThrough, signOutThrough, walk, type Identity, type RequestOptions } from './walk.ts';

/** The rules that a website is to keep. */
export interface Rules {
  grid(part: {
    readonly under?: string | undefined;
    readonly visitors?: readonly string[] | undefined;
  }): Promise<decisions.Grid>;
  /** A visit at this moment, with GET. */
  visit(request: { readonly address: string; readonly as: string }): Promise<decisions.SeenVisit>;
}

/** What a probe is to try, and how. */
export interface Probing {
  readonly rules: Rules;
  readonly requestOptions: RequestOptions;
  readonly under: string | undefined;
  readonly visitors: readonly string[] | undefined;
  /** The address of the test provider; null where there is none. */
  readonly testProvider: string | null;
  readonly credentials: ReadonlyMap<string, Credentials>;
  /** The most visits that may be made. */
  readonly limit: number;
  /** A difference counts only where it is there again at a second visit: what passes by is nothing to be told of. */
  readonly twice?: boolean;
}

/** What a website does, beside what the rules say. */
export interface Probed {
  readonly site: string;
  readonly website: string;
  readonly at: string;
  readonly agreed: number;
  readonly differed: number;
  /** Visitors who could not be tried, and why; `failed` where signing in as them should have worked. */
  readonly untried: readonly Untried[];
  readonly visits: readonly decisions.ComparedVisit[];
}

export interface Untried {
  readonly visitor: string;
  readonly because: string;
  readonly failed: boolean;
}

/** There is more to try than was allowed. */
export class TooMany extends Error {
  constructor(readonly visits: number) {
    super();
  }
}

/**
 * Whether a website that stands for a site with HTTPS, but is asked without, redirects to HTTPS at once: the
 * rules say so of pages that require it, and what comes behind that can't be tried here.
 */
const isSentToHttps = (
  [first]: readonly decisions.Answered[],
  { base, home }: RequestOptions,
): boolean =>
  base.startsWith('http:') &&
  home.startsWith('https:') &&
  first?.status === 308 &&
  first.location === first.address;

/**
 * Makes the visits of the reach grid over HTTP, one request after the other, and compares each with
 * what the rules say of it. Addresses to which rules lead are tried too where the website decides what is there.
 */
export async function probe(
  { rules, requestOptions, under, visitors, testProvider, credentials, limit, twice }: Probing,
  onProgress: (done: number, all: number) => void,
): Promise<Probed> {
  const grid = await rules.grid({ under, visitors });
  const addresses = [...grid.rows.map(({ visited }) => visited), ...grid.undeclaredTargets];
  const all = addresses.length * grid.visitors.length;
  if (all > limit) throw new TooMany(all);
  const untried: Untried[] = [];
  const visits: decisions.ComparedVisit[] = [];
  for (const { name, summary } of grid.visitors) {
    const identity: Identity = {
      jar: new CookieJar(),
      fields: credentials.get(name)?.fields ?? {},
    };
    const obstacle = await authenticate(name, summary === 'guest', identity);
    if (obstacle !== null) {
      untried.push({ visitor: name, ...obstacle });
      continue;
    }
    for (const address of addresses) {
      let visit = await tried(address, name, identity);
      if (twice && visit.difference !== null) visit = await tried(address, name, identity);
      visits.push(visit);
      onProgress(visits.length, all);
    }
    if (testProvider !== null && summary !== 'guest' && !credentials.has(name))
      await signOutThrough(requestOptions, identity);
  }
  const differed = visits.filter(({ difference }) => difference !== null).length;
  return {
    site: grid.site,
    website: requestOptions.base,
    at: grid.at,
    agreed: visits.length - differed,
    differed,
    untried,
    visits,
  };

  async function tried(
    address: string,
    as: string,
    identity: Identity,
  ): Promise<decisions.ComparedVisit> {
    const expected = await rules.visit({ address, as });
    const answered = await walk(address, requestOptions, identity);
    if (!isSentToHttps(answered, requestOptions)) return decisions.compareVisit(expected, answered);
    const { outcome } = expected;
    return { address, visitor: as, outcome, hops: answered.length, difference: null };
  }

  /** Why a visitor can't be tried; null where they can, and their identity has what it takes. */
  async function authenticate(
    name: string,
    isGuest: boolean,
    identity: Identity,
  ): Promise<Omit<Untried, 'visitor'> | null> {
    const own = credentials.get(name);
    for (const [cookie, value] of Object.entries(own?.cookies ?? {}))
      await identity.jar.setCookie(`${cookie}=${value}; Path=/`, requestOptions.base);
    if (own || isGuest) return null;
    if (testProvider === null)
      return {
        because: 'nothing says how to sign in as them: name their cookies with --sign-in',
        failed: false,
      };
    const failed = await signInThrough(testProvider, name, requestOptions, identity);
    return failed === null ? null : { because: `signing in did not work: ${failed}`, failed: true };
  }
}
