import { readAddress } from '../address/address.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { exampleVisitor, type ExampleVisitor } from '../explore/example-visitor.ts';
import { Explorer } from '../explore/explorer.ts';
import type { Part } from '../explore/part.ts';
import type { Guarantee } from '../model/guarantee.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import type { Visitor } from '../model/visitor.ts';
import { followRedirects, type VisitEnd } from '../visit/visit.ts';
import { scopeTest } from '../everywhere/scopes.ts';
import { addressOf, Starts, type Start } from '../everywhere/starts.ts';
import { withBudget } from '../pattern/language.ts';
import { datesOf, stretchesOf } from '../everywhere/stretches.ts';

/** Of work on addresses for one guarantee: some ten seconds. */
const BUDGET = 500_000;

/** Who shows that a guarantee does not hold: as plain a visitor as there is, at the earliest moment. */
export interface Witness {
  readonly visitor: Visitor;
  readonly method: string;
  readonly address: string;
  /** In milliseconds since 1970. */
  readonly at: number;
  readonly end: VisitEnd;
}

/** What is true of a guarantee. */
export type Verdict = { readonly guarantee: Guarantee } & (
  | {
      readonly is: 'proved';
      /** How many families of addresses were looked at, and in how many stretches of time. */
      readonly families: number;
      readonly stretches: number;
    }
  | { readonly is: 'refuted'; readonly witness: Witness }
  /** There are more cases than can be told apart, so that it is not known to hold. */
  | { readonly is: 'unsettled' }
);

/**
 * Proves or refutes the guarantees of a site: for every visitor there could be, at every address, from a moment on.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function proveGuarantees(prepared: PreparedSite, at: number): Verdict[] {
  const dates = datesOf(prepared.site);
  const stretches = prepared.site.guarantees.map((one) => stretchesOf(dates, one, at));
  const moments = [...new Set([at, ...stretches.flat()])];
  const explorers = new Map(moments.map((moment) => [moment, new Explorer(prepared, moment)]));
  const starts = new Starts([...explorers.values()]);
  return prepared.site.guarantees.map((guarantee, i): Verdict => {
    try {
      const own = stretches[i]!.map((moment) => explorers.get(moment)!);
      return withBudget(BUDGET, () => prove(prepared, guarantee, own, startsOf(starts, guarantee)));
    } catch (error) {
      if (error instanceof TooManyCases) return { guarantee, is: 'unsettled' };
      throw error;
    }
  });
}

function prove(
  prepared: PreparedSite,
  guarantee: Guarantee,
  explorers: readonly Explorer[],
  starts: readonly Start[],
): Verdict {
  const isBroken = breachOf(prepared, guarantee);
  for (const explorer of explorers) {
    const breaches = starts.flatMap((start) => breachesAt(explorer, guarantee, start, isBroken));
    if (breaches.length === 0) continue;
    const witness = smallestOf(prepared, guarantee, explorer.at, breaches, isBroken);
    return witness ? { guarantee, is: 'refuted', witness } : { guarantee, is: 'unsettled' };
  }
  return { guarantee, is: 'proved', families: starts.length, stretches: explorers.length };
}

/** Where visits begin that could break a guarantee. */
function startsOf(starts: Starts, guarantee: Guarantee): Start[] {
  const { old, links, scopes } = guarantee;
  if (old) return starts.ofOld(old);
  if (links) return starts.ofLinks();
  const pages = starts.ofPages(scopes);
  return isEverywhere(guarantee)
    ? [...pages, ...starts.undeclared(scopes), ...starts.ofRewrites()]
    : pages;
}

/**
 * Whether it is about all addresses, and not only those of pages: what no page has is missing as a rule, and that
 * it is never reached or changed is what must be proved.
 */
const isEverywhere = ({ is, demands, links }: Guarantee): boolean =>
  is === 'never' && !links && demands.some((one) => one === 'reach' || one === 'change');

const methodOf = ({ demands }: Guarantee): string => (demands.includes('change') ? 'POST' : 'GET');

/** Tells whether a visit breaks a guarantee. */
function breachOf(
  prepared: PreparedSite,
  { is, demands, hops, scopes, old, links }: Guarantee,
): (end: VisitEnd) => boolean {
  if (old) return (end) => !arrivesPermanently(end, hops ?? Infinity);
  const wanted: readonly string[] = demands.map((one) => (one === 'change' ? 'reach' : one));
  if (is === 'always') return ({ outcome }) => !wanted.includes(outcome);
  const isIn = scopeTest(links ? [] : scopes, prepared.site.tidy);
  return (end) =>
    wanted.includes(end.outcome) &&
    (end.outcome !== 'reach' || shownAt(prepared, end).some((path) => isIn(path)));
}

/** The paths of what a visit was shown in the end, in the form in which rules are matched. */
function shownAt({ site }: PreparedSite, { hops }: VisitEnd): string[] {
  const { address, decision } = hops.at(-1)!;
  return [address, decision.served].flatMap((one) => {
    const read = one === null ? null : readAddress(one, site, site.tidy);
    return read?.ok ? [read.address.path] : [];
  });
}

const PERMANENT_STATUSES = [301, 308];

/** Whether a visit is taken on by permanent redirects alone, and comes to an end. */
function arrivesPermanently({ outcome, hops }: VisitEnd, most: number): boolean {
  const last = hops.findIndex(
    ({ decision }) => decision.location === null || !isRedirect(decision.outcome),
  );
  const redirects = last === -1 ? hops : hops.slice(0, last);
  return (
    redirects.length > 0 &&
    redirects.length <= most &&
    redirects.every(({ decision }) => PERMANENT_STATUSES.includes(decision.status)) &&
    outcome !== 'loop' &&
    outcome !== 'invalid'
  );
}

/** Sent on by a redirect, and not by a gate. */
const isRedirect = (outcome: string): boolean => outcome === 'redirect' || outcome === 'away';

interface Breach {
  readonly start: Start;
  readonly part: Part;
  readonly example: ExampleVisitor;
}

/** The visitors of whom a guarantee is broken at some addresses. */
function breachesAt(
  explorer: Explorer,
  guarantee: Guarantee,
  start: Start,
  isBroken: (end: VisitEnd) => boolean,
): Breach[] {
  const { family, among } = start;
  const own = explorer.within(family);
  const { atoms } = own;
  const [address, method] = [addressOf(start), methodOf(guarantee)];
  // Whatever is reached in the end is reached at its own address, too, whatever query it is asked for with.
  const parts = isEverywhere(guarantee)
    ? own.endsWithAnyQuery(address, method)
    : own.partsOf(address, method);
  const broken = parts.filter(({ end }) => isBroken(end));
  if (broken.length === 0) return [];
  // Nothing is known of an address when someone lands.
  const who = [guarantee.who, ...(among ? [among] : [])].map((one) =>
    atoms.setOf(one, { path: {}, query: '' }),
  );
  return broken.flatMap((part): Breach[] => {
    const those = atoms.sets.allOf([part.visitors, ...who]);
    if (!atoms.isAnyone(those)) return [];
    const example = exampleVisitor(atoms, those, family, explorer.prepared.names, explorer.at);
    if (example === null) throw new TooManyCases();
    return [{ start, part, example }];
  });
}

/** The plainest visitor with the shortest way, who is tried: what is said of everyone must be true of them. */
function smallestOf(
  prepared: PreparedSite,
  guarantee: Guarantee,
  at: number,
  breaches: readonly Breach[],
  isBroken: (end: VisitEnd) => boolean,
): Witness | null {
  const sorted = [...breaches].sort(
    (a, b) =>
      a.example.cost - b.example.cost ||
      a.part.end.hops.length - b.part.end.hops.length ||
      a.example.address.length - b.example.address.length,
  );
  const method = methodOf(guarantee);
  for (const { start, example } of sorted) {
    const { visitor } = example;
    const address = start.origin + example.address + start.query;
    const end = followRedirects(prepared, { method, address }, visitor, at);
    if (isBroken(end)) return { visitor, method, address, at, end };
  }
  return null;
}
