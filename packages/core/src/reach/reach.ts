import { closureAt } from '../decision/page-at.ts';
import type { Part } from '../explore/part.ts';
import type { Explorer } from '../explore/explorer.ts';
import type { Family } from '../explore/families.ts';
import type { Closure } from '../model/closure.ts';
import type { Page, Right } from '../model/site.ts';
import { ALL, NONE } from '../explore/visitor-sets.ts';

/** Whom some addresses of a page let in, of all visitors that there can be. */
export interface Reach {
  /** What sets of visitors are made of here. */
  readonly explorer: Explorer;
  readonly parts: readonly Part[];
  /** Those who reach it; full access is apart. */
  readonly visitors: number;
  /** Those who do by full access alone. */
  readonly byFullAccess: number;
  /** Why nobody does, whoever they are; null otherwise. */
  readonly closure: Closure | null;
}

/** The method that asks for a right. */
const METHODS: Readonly<Record<Right, string>> = { view: 'GET', change: 'POST' };

/** Who reaches a page: those whose visit to its address ends there, at once or by redirects. */
export function reachOf(
  explorer: Explorer,
  page: Page,
  family: Family,
  right: Right = 'view',
): Reach {
  // What is said of the pieces of many addresses is about these addresses only.
  const own = explorer.within(family);
  const parts = own.partsOf(family.example, METHODS[right]);
  const reaching = parts.filter(({ end }) => end.outcome === 'reach');
  return {
    explorer: own,
    parts,
    visitors: own.visitorsOf(reaching, ({ end }) => !end.fullAccess),
    byFullAccess: own.visitorsOf(reaching, ({ end }) => end.fullAccess),
    closure: reaching.length > 0 ? null : (closureAt(page, explorer.at) ?? redirectedAlways(parts)),
  };
}

/**
 * Returns the visitors for whom a page with one address is there, whatever gates say; drafts, and pages closed at the
 * moment, are there for nobody.
 */
export function visitorsWithPage({ atoms, at }: Explorer, page: Page): number {
  if (page.draft || closureAt(page, at) !== null) return NONE;
  return page.missingUnless === null ? ALL : atoms.setOf(page.missingUnless, NOWHERE);
}

const NOWHERE = { path: {}, query: '' };

/** Returns the redirect that applies to everyone. That to a readable address is no closure: the page is there. */
export function redirectedAlways(parts: readonly Part[]): Closure | null {
  const targets = new Set(
    parts.map(({ end }) => {
      const { reasons, location } = end.hops[0]!.decision;
      const last = reasons.find(({ verdict }) => verdict === 'redirected');
      return last?.stage === 'redirect' && last.rule?.startsWith('redirect ') ? location : null;
    }),
  );
  const [to] = targets;
  return targets.size === 1 && to != null ? { code: 'redirected', to } : null;
}

/** The gates that have a say, the nearest first: they are asked from the outermost to the nearest. */
export function gatesIn(parts: readonly Part[]): string[] {
  const asked = parts.map(({ end }) =>
    end.hops.flatMap(({ decision }) =>
      decision.reasons
        .flatMap(({ stage, rule, verdict }) =>
          stage === 'gate' && verdict !== 'skipped' && rule !== null ? [rule.slice(5)] : [],
        )
        .reverse(),
    ),
  );
  asked.sort((a, b) => b.length - a.length);
  return [...new Set(asked.flat())];
}
