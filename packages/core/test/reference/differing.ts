import { normalizePath } from '../../src/address/tidy.ts';
import { decodeGroups, type Groups } from '../../src/pattern/fill.ts';
import { groupsTaken } from '../../src/pattern/matched-groups.ts';
import { lookUp } from '../../src/pattern/pattern-index.ts';
import { parsePattern } from '../../src/pattern/parse.ts';
import { evaluate } from '../../src/condition/evaluate.ts';
import type { VisitDifference } from '../../src/comparison/compare-states.ts';
import { decisions, type model } from '../../src/index.ts';

type States = readonly [before: decisions.PreparedSite, after: decisions.PreparedSite];

/** Someone asking for an address at a moment. */
export interface Asked {
  readonly address: string;
  readonly method: string;
  readonly visitor: model.Visitor;
  readonly at: number;
}

export const visitsOf = (states: States, { address, method, visitor, at }: Asked) =>
  states.map((state) => decisions.visit(state, { method, address }, visitor, at));

/** What a visitor can tell of a visit. */
export const toldOf = ({ outcome, status, final, hops }: decisions.Visit): string =>
  JSON.stringify([
    outcome,
    status,
    final,
    hops.map(({ address, decision }) => [
      address,
      decision.location,
      decision.served,
      decision.content,
    ]),
  ]);

/** Whether a visitor is told the same of two visits; asked a million times, so that most texts are not made. */
const isSameTold = (one: decisions.Visit, other: decisions.Visit): boolean =>
  one.outcome === other.outcome &&
  one.status === other.status &&
  one.final === other.final &&
  one.hops.length === other.hops.length &&
  one.hops.every(({ address, decision }, i) => {
    const { address: there, decision: its } = other.hops[i]!;
    return (
      address === there &&
      decision.location === its.location &&
      isSame(decision.served, its.served) &&
      isSame(decision.content, its.content)
    );
  });

const isSame = (one: unknown, other: unknown): boolean =>
  one === other || JSON.stringify(one) === JSON.stringify(other);

/** For how long browsers keep a redirect of the site's own; of other addresses of a page that is not told. */
const keptOf = ({ status, headers, reasons }: decisions.Decision): string | null =>
  reasons.some(({ stage, verdict }) => stage === 'redirect' && verdict === 'redirected')
    ? JSON.stringify([status, headers['Cache-Control'], headers['Refresh']])
    : null;

/** Whether someone meets something else in one state than in the other. */
export function isDiffering(states: States, asked: Asked): boolean {
  const [before, after] = visitsOf(states, asked);
  if (!isSameTold(before!, after!)) return true;
  const [kept, keptAfter] = [before!, after!].map(({ hops }) =>
    hops.map(({ decision }) => keptOf(decision)),
  );
  return kept!.some((one, i) => {
    const other = keptAfter![i] ?? null;
    return one !== other && one !== null && other !== null;
  });
}

/** Whether a visitor is among those of whom a difference is told, at an address. */
export function isAmong(
  states: States,
  { place, explorer, visitors }: VisitDifference,
  { visitor, at }: Asked,
  path: string,
  query = '',
): boolean {
  const who = explorer.describe(visitors);
  const situation = { visitor, at, path: piecesOf(states, place, path), query };
  return who !== null && evaluate(who.condition, situation, states[1].names);
}

/** Whether it is told that someone meets something else, at the address or where it leads in both states. */
export function isTold(
  states: States,
  differences: readonly VisitDifference[],
  asked: Asked,
): boolean {
  if (isToldAt(states, differences, asked)) return true;
  const [before, after] = visitsOf(states, asked).map(({ hops }) => hops);
  return before!.some(
    ({ address }, i) =>
      i > 0 &&
      address === after![i]?.address &&
      ['GET', asked.method].some((method) =>
        isToldAt(states, differences, { ...asked, address, method }),
      ),
  );
}

function isToldAt(states: States, differences: readonly VisitDifference[], asked: Asked): boolean {
  const { address, method, at } = asked;
  const { pathname, search } = new URL(address, 'https://site.invalid');
  const isOwn = address.startsWith('/');
  const path = isOwn ? normalizePath(pathname, states[1].site.tidy) : pathname;
  const host = isOwn ? '' : new URL(address).origin;
  return differences.some((one) => {
    const { place, right, explorer } = one;
    if (explorer.at > at || (method === 'GET' && right === 'change')) return false;
    const { family, origin } = place;
    const isThere = (origin === host && family.has(path)) || origin + family.example === address;
    return isThere && isAmong(states, one, asked, path, search.slice(1));
  });
}

/** The pieces of addresses, by the place that they are at: patterns take long to read. */
const known = new WeakMap<VisitDifference['place'], Map<string, Groups>>();

/** The pieces of an address, by the pattern of the place that it is at. */
function piecesOf(states: States, place: VisitDifference['place'], path: string): Groups {
  let ofPlace = known.get(place);
  if (!ofPlace) known.set(place, (ofPlace = new Map<string, Groups>()));
  let pieces = ofPlace.get(path);
  if (!pieces) ofPlace.set(path, (pieces = readPieces(states, place, path)));
  return pieces;
}

function readPieces(
  [was, is]: States,
  { is: kind, address }: VisitDifference['place'],
  path: string,
): Groups {
  if (kind === 'page')
    for (const state of [is, was]) {
      const match = lookUp(state.pages, path).find(({ rule }) => rule.page.address === address);
      if (match) return decodeGroups(match.groups);
    }
  const text = address.replace(/^https?:\/\/[^/]*/, '').replace(/\?.*$/, '');
  return decodeGroups(groupsTaken(parsePattern(text, { ignoreCase: true }), path));
}
