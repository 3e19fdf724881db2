import { isInForce, phaseAt } from '../time/period.ts';
import type { Condition, Value } from '../model/condition.ts';
import { gateChainAt } from '../decision/gate.ts';
import { leavesAlone } from '../decision/rewrite.ts';
import type { PreparedPage, PreparedSite } from '../decision/prepared-site.ts';
import { decodePathText } from '../address/canonical-path.ts';
import type { Groups } from '../pattern/fill.ts';
import { lookUp, type Match } from '../pattern/pattern-index.ts';
import { fillTarget } from '../pattern/target.ts';
import { literalOf } from '../model/pattern.ts';
import { readAddress } from '../address/address.ts';
import type { Gate, Page, Right } from '../model/site.ts';
import type { Closure } from '../model/closure.ts';

/** Whom a page lets in. */
export interface Reach {
  /** Exactly whom, as a condition; full access is apart. */
  readonly condition: Condition;
  /** Who gets in by full access alone; null where nobody does. */
  readonly byFullAccess: Condition | null;
  /** Why nobody does at the moment, whoever they are; null otherwise. */
  readonly closed: Closure | null;
  /** The gates that have a say, the nearest first. */
  readonly gates: readonly string[];
}

/**
 * Whom a page of the site lets in, from the rules themselves.
 *
 * @param at the moment, in milliseconds since 1970
 * @param right whether it is to be viewed or changed
 */
export function reachOf(
  prepared: PreparedSite,
  page: Page,
  at: number,
  right: Right = 'view',
): Reach {
  const closed = closureAt(page, at) ?? redirectedAlways(prepared, page, at);
  const { condition, gates, byFullAccess } = conditionOf(prepared, page, at, right);
  return {
    condition: closed === null ? condition : NOBODY,
    byFullAccess: closed === null && byFullAccess ? prepared.site.fullAccess : null,
    closed,
    gates,
  };
}

const NOBODY: Condition = { is: 'nobody' };
const ANYONE: Condition = { is: 'anyone' };

/** The page at an address of the site; null where none is. */
export function pageAt(prepared: PreparedSite, address: string): Match<PreparedPage> | null {
  // Only the address of a pattern has to be looked for among all pages.
  const page = /[:*(){}+?\\]/.test(address)
    ? prepared.site.pages.find((one) => one.address === address)
    : undefined;
  const read = readAddress(page?.example ?? address, prepared.site, prepared.site.tidy);
  if (!read.ok || read.address.host !== prepared.site.host) return null;
  return lookUp(prepared.pages, read.address.path)[0] ?? null;
}

/**
 * Why a page is not there at the moment, whoever asks; null when it is.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function closureAt({ validFrom, validUntil }: Page, at: number): Closure | null {
  const phase = phaseAt(validFrom, validUntil, at);
  if (phase === 'before') return { code: 'opens-later', at: validFrom! };
  return phase === 'after' ? { code: 'ended', at: validUntil! } : null;
}

function redirectedAlways(prepared: PreparedSite, page: Page, at: number): Closure | null {
  const all = redirectsAt(prepared, page, at).find(({ rule }) => rule.when === null);
  return all ? { code: 'redirected', to: all.rule.to.text } : null;
}

/** The redirects that stand before a page: those that apply also where a page is. */
function redirectsAt(prepared: PreparedSite, page: Page, at: number) {
  return lookUp(prepared.redirects, pathOf(prepared, page)).filter(
    ({ rule }) => !rule.unlessPage && rule.queryConstraints.length === 0 && isInForce(rule, at),
  );
}

/** The path at which rules are matched against a page. */
export function pathOf(prepared: PreparedSite, page: Page): string {
  const read = readAddress(page.example, prepared.site, prepared.site.tidy);
  return read.ok ? read.address.path : page.example;
}

/**
 * Whom a page lets in, full access apart, and by which gates; whether full access lets in past these.
 *
 * @param at the moment, in milliseconds since 1970
 */
export function conditionOf(
  prepared: PreparedSite,
  page: Page,
  at: number,
  right: Right,
): { condition: Condition; gates: string[]; byFullAccess: boolean } {
  const { site } = prepared;
  const isOne = literalOf(page.pattern) !== null;
  // On a page with one address, the pieces of the address are known; on others they stay open.
  const known = (condition: Condition, groups: Groups): Condition =>
    isOne ? withPieces(condition, groups) : condition;
  const path = pathOf(prepared, page);
  const own = gatesFor(prepared, path, at, right);
  const admittedBy = (gates: readonly Match<Gate>[]): Condition[] => {
    if (gates.length > 0) return gates.map(({ rule, groups }) => known(rule.admit, groups));
    if (right === 'change' && site.change === 'gated-only') return [NOBODY];
    return [site.ungated === 'closed' ? { is: 'signed-in' } : ANYONE];
  };
  const served = servingsOf(prepared, page, at).reduceRight<Serving>(
    (otherwise, { when, path: from }) => {
      const gates = from === null ? [] : gatesFor(prepared, from, at, right);
      const here =
        from === null ? ANYONE : allOf([...admittedBy(gates), ...thereAt(prepared, from, at)]);
      return {
        gates: [...gates, ...otherwise.gates],
        condition: when === null ? here : eitherOr(when, here, otherwise.condition),
      };
    },
    { gates: [], condition: ANYONE },
  );
  const notRedirected = redirectsAt(prepared, page, at).flatMap(({ rule, groups }): Condition[] =>
    rule.when === null ? [] : [{ is: 'not', of: known(rule.when, groups) }],
  );
  const there: Condition[] = [
    ...(page.draft ? [NOBODY] : []),
    ...(page.missingUnless === null ? [] : [page.missingUnless]),
  ];
  const gates = [...own, ...served.gates].map(({ rule }) => rule);
  const isForRight = right === 'view' || site.fullAccessRight === 'change';
  return {
    condition: allOf([...admittedBy(own), ...notRedirected, ...there, served.condition]),
    gates: [...new Set(gates.map(({ name }) => name))],
    byFullAccess: isForRight && gates.every(({ fullAccess }) => fullAccess),
  };
}

/** Whom an address lets in where there is no page now. */
export const NOT_THERE = { condition: NOBODY, byFullAccess: true };

interface Serving {
  readonly gates: readonly Match<Gate>[];
  readonly condition: Condition;
}

/** What a page may be served from, the most specific first; nothing after one that is for everyone. */
function servingsOf(
  prepared: PreparedSite,
  page: Page,
  at: number,
): { when: Condition | null; path: string | null }[] {
  const { site } = prepared;
  const matches = lookUp(prepared.rewrites, pathOf(prepared, page)).filter(
    ({ rule }) => !leavesAlone(rule, page) && isInForce(rule, at),
  );
  const always = matches.findIndex(({ rule }) => rule.when === null);
  return matches
    .slice(0, always === -1 ? matches.length : always + 1)
    .map(({ rule: { when, serve }, groups }) => {
      const read = readAddress(fillTarget(serve, groups, ''), site, site.tidy);
      return { when, path: serve.origin === null && read.ok ? read.address.path : null };
    });
}

/** What must hold for there to be a page at what an address is served from. */
function thereAt(prepared: PreparedSite, path: string, at: number): Condition[] {
  const page = lookUp(prepared.pages, path)[0]?.rule.page;
  if (!page || page.draft || closureAt(page, at) !== null) return [NOBODY];
  return page.missingUnless === null ? [] : [page.missingUnless];
}

const eitherOr = (when: Condition, then: Condition, otherwise: Condition): Condition => ({
  is: 'or',
  of: [allOf([when, then]), allOf([{ is: 'not', of: when }, otherwise])],
});

function gatesFor(prepared: PreparedSite, path: string, at: number, right: Right) {
  const { effectiveGates } = gateChainAt({ prepared, at }, lookUp(prepared.gates[right], path));
  const follows =
    right === 'change' && effectiveGates.length === 0 && prepared.site.change === 'as-view';
  return follows
    ? gateChainAt({ prepared, at }, lookUp(prepared.gates.view, path)).effectiveGates
    : effectiveGates;
}

function allOf(conditions: readonly Condition[]): Condition {
  const telling = conditions.filter(({ is }) => is !== 'anyone');
  if (telling.some(({ is }) => is === 'nobody')) return NOBODY;
  const [only, ...others] = telling;
  if (only === undefined) return ANYONE;
  return others.length === 0
    ? only
    : { is: 'and', of: telling.flatMap((one) => (one.is === 'and' ? one.of : [one])) };
}

/** Puts the pieces of an address in the place of `path.NAME`. */
function withPieces(condition: Condition, groups: Groups): Condition {
  switch (condition.is) {
    case 'not':
      return { is: 'not', of: withPieces(condition.of, groups) };
    case 'and':
    case 'or':
      return { is: condition.is, of: condition.of.map((inner) => withPieces(inner, groups)) };
    case 'compare':
      return {
        ...condition,
        left: withPiece(condition.left, groups),
        right: withPiece(condition.right, groups),
      };
    default:
      return condition;
  }
}

function withPiece(value: Value, groups: Groups): Value {
  if (value.is === 'list')
    return { is: 'list', of: value.of.map((item) => withPiece(item, groups)) };
  const piece = value.is === 'path' ? groups[value.name] : undefined;
  return piece === undefined ? value : { is: 'string', value: decodePathText(piece) };
}
