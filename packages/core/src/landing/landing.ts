import { readAddress } from '../address/address.ts';
import type { Condition } from '../model/condition.ts';
import { evaluate } from '../condition/evaluate.ts';
import { printCondition } from '../condition/print.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { LandingReason } from '../model/landing-reason.ts';
import type { Landing } from '../model/site.ts';
import { type Visitor, GUEST } from '../model/visitor.ts';
import { visit, type Visit } from '../visit/visit.ts';
import type { SourceLocation } from '../model/source-location.ts';

/** Where someone is taken after signing in or out, why, and what happens to them there. */
export interface Landed {
  readonly after: Landing['after'];
  readonly visitor: string;
  readonly address: string;
  readonly reason: LandingReason;
  /** Where the rule stands in the site file; null where none applied. */
  readonly place: SourceLocation | null;
  readonly visit: Visit;
}

/**
 * Decides where a visitor lands. The return address goes first where the rule says so, if it is
 * an address of this site that they reach; it is decided as a visit before it is used.
 *
 * @param from the return address, as the sign-in page got it; null when there was none
 * @param at the moment, in milliseconds since 1970
 */
export function landing(
  prepared: PreparedSite,
  after: Landing['after'],
  visitor: Visitor,
  from: string | null,
  at: number,
): Landed {
  const rule = ruleFor(prepared, after, visitor, at);
  // Whoever has signed out arrives as a guest.
  const arriving =
    after === 'sign-out' ? { ...GUEST, name: visitor.name, title: visitor.title } : visitor;
  const land = (reason: LandingReason): Landed => ({
    after,
    visitor: visitor.name,
    address: reason.address,
    reason,
    place: rule?.place ?? null,
    visit: visit(prepared, { method: 'GET', address: reason.address }, arriving, at),
  });
  const byRule = {
    code: rule === null ? 'no-landing-rule' : 'landing-rule',
    address: rule === null ? '/' : rule.go,
    after,
  } as const;
  if (from === null || (rule !== null && !rule.returnFirst))
    return land({ ...byRule, notBack: null });
  if (!isOfThisSite(prepared, from))
    return land({ ...byRule, notBack: { because: 'not-of-this-site', from } });
  const back = land({ code: 'return-address', address: from });
  const { outcome } = back.visit;
  return outcome === 'reach'
    ? back
    : land({ ...byRule, notBack: { because: 'not-reached', from, outcome } });
}

/** The landing that applies. */
function ruleFor(
  { site, names }: PreparedSite,
  after: Landing['after'],
  visitor: Visitor,
  at: number,
): Landing | null {
  const situation = { visitor, at, path: {}, query: '' };
  const fitting = site.landings.filter(
    (one) => one.after === after && evaluate(one.who, situation, names),
  );
  const [first] = fitting.sort(compareLandings);
  return first ?? null;
}

/**
 * Orders landings, the one that applies first: one that is for some before one that is for anyone, then the
 * highest rank. What is left is settled by the text of the landings, and never by their order in the file.
 */
export const compareLandings = (a: Landing, b: Landing): number =>
  Number(a.who.is === 'anyone') - Number(b.who.is === 'anyone') ||
  b.rank - a.rank ||
  compareTexts(textOf(a), textOf(b));

const compareTexts = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

const textOf = ({ who, go, returnFirst }: Landing): string =>
  `${printCondition(who)} ${go} ${returnFirst}`;

/** Only a path: whatever names a host could lead elsewhere after someone has just signed in. */
function isOfThisSite({ site }: PreparedSite, address: string): boolean {
  return address.startsWith('/') && readAddress(address, site, site.tidy).ok;
}

/** Those who are taken to a landing; whoever has signed out arrives as a guest. */
export function arrivingAt(landing: Landing, all: readonly Landing[]): Condition {
  if (landing.after === 'sign-out') return { is: 'guest' };
  const earlier = all.filter(
    (one) => one.after === landing.after && compareLandings(one, landing) < 0,
  );
  const others = earlier.map(({ who }): Condition => ({ is: 'not', of: who }));
  return { is: 'and', of: [{ is: 'signed-in' }, landing.who, ...others] };
}
