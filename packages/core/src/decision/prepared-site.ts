import { normalizePath } from '../address/tidy.ts';
import type { Pattern } from '../model/pattern.ts';
import { foldPattern } from '../pattern/fold.ts';
import type { Condition } from '../model/condition.ts';
import type { Names } from '../condition/evaluate.ts';
import type { ProductTerms } from '../condition/product-terms.ts';
import {
  buildIndexInSteps,
  inOneGo,
  type Indexed,
  type PatternIndex,
  type QueryValue,
  type Steps,
} from '../pattern/pattern-index.ts';
import type { Reason } from '../model/reason.ts';
import type { Gate, NotFoundRule, Page, Redirect, Rewrite, Right, Site } from '../model/site.ts';
import { Recent } from './recent.ts';
import type { ReadSiteAddress } from './site-address.ts';

/**
 * A site arranged for deciding: its rules in indexes, built once for each state of the site, so that
 * a decision costs the length of the address and not the number of rules.
 */
export interface PreparedSite {
  readonly site: Site;
  readonly names: Names;
  /** The primary address of every other address of a page, both in the form that rules are matched against. */
  readonly primary: ReadonlyMap<string, string>;
  readonly pages: PatternIndex<PreparedPage>;
  readonly gates: Readonly<Record<Right, PatternIndex<Gate>>>;
  readonly redirects: PatternIndex<Redirect>;
  /** Redirects that are for one other host only. */
  readonly redirectsByHost: ReadonlyMap<string, PatternIndex<Redirect>>;
  readonly rewrites: PatternIndex<Rewrite>;
  readonly notFound: PatternIndex<NotFoundRule>;
  /** Some gate hides what it closes. */
  readonly hides: boolean;
  /** Every host that reaches this site, the primary one among them. */
  readonly hosts: ReadonlySet<string>;
  /** Pages and gates by folded addresses; built when they are first needed. */
  readonly folded: () => FoldedIndexes;
  /** Some page or gate has letters beyond ASCII, which may fold to letters of ASCII. */
  readonly mayFold: boolean;
  /** What is known of the addresses that were asked for lately. */
  readonly recent: Recent<ReadSiteAddress>;
}

/** Indexes whose patterns are folded, by which an address is found that a server may take for another one. */
export interface FoldedIndexes {
  readonly pages: PatternIndex<PreparedPage>;
  readonly gates: Readonly<Record<Right, PatternIndex<Gate>>>;
}

/** A page with what is said of it whenever it is found: most decisions find one. */
export interface PreparedPage {
  readonly page: Page;
  readonly found: Reason;
}

/** Builds the indexes of a site. Costs the number of its rules. */
export const prepareSite = (site: Site): PreparedSite => inOneGo(preparing(site, false));

/** Builds the indexes of a site in steps of about a millisecond, for a thread that others wait for. */
export const prepareInSteps = (site: Site): Steps<PreparedSite> => preparing(site, true);

/** @param foldsAhead whether the folded indexes are built at once; otherwise they are built when first needed */
function* preparing(site: Site, foldsAhead: boolean): Steps<PreparedSite> {
  const byHost = new Map<string, Redirect[]>();
  for (const redirect of site.redirects) {
    if (redirect.host === null || redirect.host === site.host) continue;
    const same = byHost.get(redirect.host);
    if (same) same.push(redirect);
    else byHost.set(redirect.host, [redirect]);
  }
  const home = [
    ...site.redirects.filter(({ host }) => host === null || host === site.host),
    ...site.rewrites.flatMap(redirectBack),
  ];
  const redirectsByHost = new Map<string, PatternIndex<Redirect>>();
  for (const [host, rules] of byHost)
    redirectsByHost.set(host, yield* buildIndexInSteps(each(rules, indexedRedirect)));
  let folded = foldsAhead ? yield* foldedIndexes(site) : null;
  return {
    site,
    names: {
      audiences: new Map(Object.entries(site.audiences)),
      timeZone: site.timeZone,
      products: productTerms(site.products),
    },
    primary: primaryAddresses(site),
    pages: yield* buildIndexInSteps(each(site.pages, indexedPage)),
    gates: {
      view: yield* buildIndexInSteps(indexedGates(site, 'view')),
      change: yield* buildIndexInSteps(indexedGates(site, 'change')),
    },
    redirects: yield* buildIndexInSteps(each(home, indexedRedirect)),
    redirectsByHost,
    rewrites: yield* buildIndexInSteps(each(site.rewrites, indexedRewrite)),
    notFound: yield* buildIndexInSteps(each(site.notFound, indexedNotFound)),
    hides: site.gates.some(({ otherwise }) => otherwise.some((step) => step.do === 'hide')),
    hosts: new Set([site.host, ...site.also, ...byHost.keys()]),
    folded: () => (folded ??= inOneGo(foldedIndexes(site))),
    mayFold: [...site.pages, ...site.gates.flatMap(({ scopes }) => scopes)].some(({ pattern }) =>
      pattern.parts.some((part) =>
        /%[89A-F]/.test(part.is === 'text' ? part.value : part.prefix + part.suffix),
      ),
    ),
    recent: new Recent<ReadSiteAddress>(1024, 256),
  };
}

/** Made one after the other, as they are asked for. */
function* each<A, B>(all: Iterable<A>, make: (one: A) => B): Generator<B> {
  for (const one of all) yield make(one);
}

function* foldedIndexes(site: Site): Steps<FoldedIndexes> {
  const ignoreCase = site.tidy.case === 'lower';
  const folded = <T extends { readonly pattern: Pattern }>(one: T): T => ({
    ...one,
    pattern: foldPattern(one.pattern, ignoreCase),
  });
  return {
    pages: yield* buildIndexInSteps(each(site.pages, (page) => folded(indexedPage(page)))),
    gates: {
      view: yield* buildIndexInSteps(each(indexedGates(site, 'view'), folded)),
      change: yield* buildIndexInSteps(each(indexedGates(site, 'change'), folded)),
    },
  };
}

/** What purchases of each product come to, with the bundles in bundles. */
export function productTerms(products: Site['products']): Map<string, ProductTerms> {
  const bundlesOf = (product: string): string[] =>
    Object.entries(products).flatMap(([name, { includes }]) =>
      includes.includes(product) ? [name] : [],
    );
  return new Map(
    Object.entries(products).map(([name, { grace }]) => {
      const countedIn = new Set([name]);
      // The set grows while it is read.
      for (const one of countedIn) bundlesOf(one).forEach((bundle) => countedIn.add(bundle));
      const lapsed = { is: 'bought', product: name, state: 'lapsed' } as const;
      return [name, { countedIn: [...countedIn], grace, lapsed }];
    }),
  );
}

function primaryAddresses({ pages, tidy }: Site): Map<string, string> {
  const all = pages.flatMap(({ aliases, address }) =>
    aliases.map((alias) => [alias, address] as const),
  );
  return new Map(
    all
      .map(([alias, address]): [string, string] => [
        normalizePath(alias, tidy),
        normalizePath(address, tidy),
      ])
      .filter(([alias, address]) => alias !== address),
  );
}

/** Of a rule that asks for nothing but a path. */
export const PATH_ALONE = { fields: 0, values: 0, conditional: false } as const;

const isForSome = (when: Condition | null): boolean => when !== null && when.is !== 'anyone';

const indexedPage = (page: Page): Indexed<PreparedPage> => ({
  rule: {
    page,
    found: {
      stage: 'page',
      rule: `page ${page.address}`,
      verdict: 'found',
      code: 'page-found',
      values: { page: page.address, title: page.title },
      place: page.place,
    },
  },
  pattern: page.pattern,
  under: false,
  rank: 0,
  ...PATH_ALONE,
  name: page.address,
});

/** The gates for one right, once for each of their addresses. */
export function indexedGates(site: Site, right: Right): Indexed<Gate>[] {
  return site.gates
    .filter((gate) => gate.right === right)
    .flatMap((gate) =>
      gate.scopes.map(({ pattern, under }) => ({
        rule: gate,
        pattern,
        under,
        rank: gate.rank,
        ...PATH_ALONE,
        name: gate.name,
      })),
    );
}

/** A redirect as the index takes it. */
export const indexedRedirect = (redirect: Redirect): Indexed<Redirect> => ({
  rule: redirect,
  pattern: redirect.pattern,
  under: false,
  rank: redirect.rank,
  fields: redirect.queryConstraints.length,
  values: redirect.queryConstraints.filter(({ value }) => value !== null).length,
  conditional: isForSome(redirect.when),
  only: valueAsked(redirect),
  name: `${redirect.source} → ${redirect.to.text}`,
});

function valueAsked({ queryConstraints: queryConstraints }: Redirect): QueryValue | undefined {
  for (const { field, value } of queryConstraints) if (value !== null) return { field, value };
  return undefined;
}

/** The redirect from what a canonical rewrite serves to where it is asked for. */
function redirectBack(rewrite: Rewrite): Redirect[] {
  const { canonical, when, validFrom: from, validUntil: until, rank, place } = rewrite;
  if (canonical === null) return [];
  return [
    {
      ...canonical,
      kind: 'permanent',
      query: 'keep',
      when,
      validFrom: from,
      validUntil: until,
      unlessPage: false,
      keepFor: null,
      wait: null,
      note: null,
      rank,
      inverseOf: rewrite,
      place,
    },
  ];
}

/** A rewrite as the index takes it. */
export const indexedRewrite = (rewrite: Rewrite): Indexed<Rewrite> => ({
  rule: rewrite,
  pattern: rewrite.pattern,
  under: false,
  rank: rewrite.rank,
  ...PATH_ALONE,
  conditional: isForSome(rewrite.when),
  name: `${rewrite.source} → ${rewrite.serve.text}`,
});

const indexedNotFound = (rule: NotFoundRule): Indexed<NotFoundRule> => ({
  rule,
  pattern: rule.scope.pattern,
  under: true,
  rank: rule.rank,
  ...PATH_ALONE,
  name: rule.name,
});
