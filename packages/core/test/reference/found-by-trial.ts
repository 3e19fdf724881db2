import { normalizePath } from '../../src/address/tidy.ts';
import { evaluate } from '../../src/condition/evaluate.ts';
import { buyerOf, productsIn } from '../../src/decision/offer.ts';
import { closureAt, pageAt } from '../../src/decision/page-at.ts';
import { servedExample } from '../../src/decision/rewrite.ts';
import { decisions, type model } from '../../src/index.ts';
import type { Condition } from '../../src/model/condition.ts';
import { literalOf } from '../../src/model/pattern.ts';
import type { Gate } from '../../src/model/site.ts';
import { exampleOf, exampleOfRedirect } from '../../src/pattern/example.ts';
import { decodeGroups } from '../../src/pattern/fill.ts';
import { lookUp, type Match } from '../../src/pattern/pattern-index.ts';
import { appliedRedirect } from '../../src/redirects/applied.ts';
import { isInForce } from '../../src/time/period.ts';
import { NOW } from '../support.ts';
import { endOf, EVERYONE } from './everyone.ts';

export type Prepared = decisions.PreparedSite;
export type Redirect = Prepared['site']['redirects'][number];

/** What is found, with everyone whom it is about. */
export type Found = Map<string, Set<model.Visitor>>;

export function add(found: Found, key: string, ...visitors: readonly model.Visitor[]): void {
  const all = found.get(key) ?? new Set();
  visitors.forEach((visitor) => all.add(visitor));
  found.set(key, all);
}

const arrives = ({ outcome }: { outcome: string }): boolean =>
  outcome === 'reach' || outcome === 'away';
/** Whether a redirect has one address, and leads to one. */
export const isPlain = ({ pattern, to }: Redirect): boolean =>
  literalOf(pattern) !== null && literalOf(to.path) !== null;

/** By visiting as each of everyone there could be. */
export function byTrial(prepared: Prepared): Found {
  const { site } = prepared;
  const found: Found = new Map();
  const lines = new Map(site.redirects.map((one) => [one, one.place.line]));
  for (const visitor of EVERYONE) {
    for (const after of ['sign-in', 'sign-out'] as const) {
      const { place, visit } = decisions.landing(prepared, after, visitor, null, NOW);
      const rule = site.landings.find((one) => one.place === place);
      if (rule && !visitor.guest && !arrives(visit))
        add(found, `landing-closed ${after} ${rule.go}`, visitor);
    }
    for (const redirect of site.redirects) {
      const end = endOf(prepared, exampleOfRedirect(redirect), visitor);
      if (appliedRedirect(prepared, end.hops[0]!.decision) !== redirect) continue;
      if (end.outcome === 'loop') add(found, `redirect-loop ${lines.get(redirect)}`, visitor);
      const isNowhere = end.outcome === 'missing' && pageAt(prepared, end.final) === null;
      if (isPlain(redirect) && isNowhere)
        add(found, `redirect-dead-end ${lines.get(redirect)}`, visitor);
    }
    tryTargets(prepared, visitor, found);
    for (const rewrite of site.rewrites) {
      const served = servedExample(prepared, rewrite);
      if (!served) continue;
      const asked = endOf(prepared, exampleOf(rewrite.pattern, null), visitor);
      const query = served.query === '' ? '' : `?${served.query}`;
      const direct = endOf(prepared, served.path + query, visitor);
      const refused = asked.hops[0]!.decision.reasons.find(({ verdict }) => verdict === 'refused');
      if (refused?.code === 'not-admitted' && direct.outcome === 'reach' && !direct.fullAccess)
        add(found, `rewrite-round-gate ${rewrite.place.line} ${refused.values.gate}`, visitor);
    }
    for (const { name, links } of site.menus.filter(({ onlyUsable }) => !onlyUsable))
      for (const link of links.filter((one) => one.startsWith('/'))) {
        const end = endOf(prepared, link, visitor);
        const isAsked = end.outcome === 'sign-in' && visitor.guest;
        if (!arrives(end) && !isAsked) add(found, `menu-leads-nowhere ${name} ${link}`, visitor);
      }
  }
  const [guest] = EVERYONE;
  if (site.signIn !== null && !arrives(endOf(prepared, site.signIn, guest!)))
    add(found, 'sign-in-closed');
  trySending(prepared, found);
  tryGates(prepared, found);
  tryOtherwise(prepared, found);
  tryPages(prepared, found);
  return found;
}

/** Redirects to pages that turn some away, apart from guests who are asked to sign in. */
function tryTargets(prepared: Prepared, visitor: model.Visitor, found: Found): void {
  for (const redirect of prepared.site.redirects) {
    const endsOf = (one: model.Visitor): decisions.Visit | null => {
      const end = endOf(prepared, exampleOfRedirect(redirect), one);
      return appliedRedirect(prepared, end.hops[0]!.decision) === redirect ? end : null;
    };
    const isAsked = (one: model.Visitor): boolean =>
      one.guest && endsOf(one)?.outcome === 'sign-in';
    const end = endsOf(visitor);
    const page = end?.hops[1] ? pageAt(prepared, end.hops[1].address)?.rule.page : undefined;
    if (!end || !page || closureAt(page, NOW) !== null) continue;
    if (redirect.when === null && EVERYONE.some(isAsked)) continue;
    if (!arrives(end) && end.outcome !== 'loop' && !isAsked(visitor))
      add(found, `redirect-to-closed ${redirect.place.line}`, visitor);
  }
}

const SEGMENTS = ['a', 'b', 'c', 'x-a', 'x-b', 'x-', 'old', 'zz', 'x-z'];
/** The addresses that the patterns of random sites can tell from others, and such as no rule names. */
const ADDRESSES = [
  '/',
  ...SEGMENTS.flatMap((first) => [
    `/${first}`,
    ...SEGMENTS.flatMap((second) =>
      ['', '/a', '/zz'].map((third) => `/${first}/${second}${third}`),
    ),
  ]),
];
const QUERIES = ['', 'q=1', 'q=2', 'k=1', 'k=2', 'q=1&k=1', 'q=1&k=2', 'q=2&k=1', 'q=2&k=2'];

/** The addresses of pages, and where single rules stand. */
function addressesOf({ site }: Prepared): string[] {
  const patterns = [
    ...site.redirects.filter(({ host }) => host === null),
    ...site.rewrites,
    ...site.gates.flatMap(({ scopes }) => scopes),
  ].map(({ pattern }) => pattern);
  const literals = patterns.flatMap((one) => literalOf(one) ?? []);
  return [...new Set([...ADDRESSES, ...literals, ...site.pages.map(({ example }) => example)])];
}

/** Whom gates send to where they get nowhere. */
function trySending(prepared: Prepared, found: Found): void {
  const { gates } = prepared.site;
  if (!gates.some(({ otherwise }) => otherwise.some((step) => step.do === 'send'))) return;
  const atGates = gates.flatMap(({ scopes }) =>
    scopes.flatMap(({ pattern }) => literalOf(pattern) ?? []),
  );
  const addresses = addressesOf(prepared).filter(
    (address) => pageAt(prepared, address) !== null || atGates.includes(address),
  );
  const methods = gates.some(({ right }) => right === 'change') ? ['GET', 'POST'] : ['GET'];
  for (const visitor of EVERYONE)
    for (const address of addresses)
      for (const method of methods)
        for (const { decision } of endOf(prepared, address, visitor, method).hops)
          for (const { code, values } of decision.reasons) {
            if (code !== 'not-admitted' || values.then.do !== 'send') continue;
            if (!arrives(endOf(prepared, values.then.to, visitor)))
              add(found, `sends-to-closed ${values.gate} ${values.then.to}`, visitor);
          }
}

/** Gates that admit to change what can't be seen, or that open what a section above keeps closed. */
function tryGates(prepared: Prepared, found: Found): void {
  const { site, gates, names } = prepared;
  const inForce = (rules: readonly Match<Gate>[]): Match<Gate>[] =>
    rules.filter(({ rule }) => isInForce(rule, NOW));
  for (const address of addressesOf(prepared)) {
    if (pageAt(prepared, address) === null) continue;
    const path = normalizePath(address, site.tidy);
    const [near, above] = inForce(lookUp(gates.view, path));
    const isSection = above?.rule.scopes.some(({ under }) => under) === true;
    const holds =
      (condition: Condition | null, { groups }: Match<Gate>, query: string) =>
      (visitor: model.Visitor): boolean =>
        condition !== null &&
        evaluate(condition, { visitor, at: NOW, path: decodeGroups(groups), query }, names);
    const isKnown = found.has(`open-beneath ${near?.rule.name}`);
    if (near && above && isSection && !near.rule.narrows && !isKnown)
      for (const query of QUERIES) {
        const isIn = holds(near.rule.admit, near, query);
        const isLetIn = holds(above.rule.admit, above, query);
        const isFull = holds(above.rule.fullAccess ? site.fullAccess : null, above, query);
        if (EVERYONE.some((one) => isIn(one) && !isLetIn(one) && !isFull(one)))
          add(found, `open-beneath ${near.rule.name}`);
      }
    if (site.gates.some(({ right }) => right === 'change'))
      for (const visitor of EVERYONE) {
        const changed = endOf(prepared, address, visitor, 'POST');
        const asked = changed.hops
          .at(-1)!
          .decision.reasons.filter(
            ({ stage, verdict }) => stage === 'gate' && verdict === 'admitted',
          );
        const gate = site.gates.find(({ name }) => asked.at(-1)?.rule === `gate ${name}`);
        const key = `change-without-view ${gate?.name}`;
        if (changed.outcome !== 'reach' || gate?.right !== 'change' || found.has(key)) continue;
        if (endOf(prepared, address, visitor).outcome !== 'reach') add(found, key);
      }
  }
}

/** Entries of gates for nobody, and offers of nothing. */
function tryOtherwise(prepared: Prepared, found: Found): void {
  const { site, names } = prepared;
  const situations = EVERYONE.flatMap((visitor) =>
    QUERIES.flatMap((query) =>
      ['a', 'b', 'zz'].map((p) => ({ visitor, at: NOW, path: { p }, query })),
    ),
  );
  for (const { name, admit, otherwise, fullAccess } of site.gates) {
    const passes = fullAccess && site.fullAccess !== null ? [site.fullAccess] : [];
    const offered: (typeof situations)[] = [];
    otherwise.forEach(({ who, do: how }, position) => {
      const before = [admit, ...passes, ...otherwise.slice(0, position).map((one) => one.who)];
      const left = situations.filter(
        (one) => evaluate(who, one, names) && !before.some((taken) => evaluate(taken, one, names)),
      );
      if (left.length === 0) add(found, `otherwise-unused ${name} ${position + 1}`);
      if (how === 'offer') offered.push(left);
    });
    if (offered.length === 0) continue;
    const sold = productsIn(admit, names).filter((one) => site.products[one]!.buyAt !== null);
    const sets = sold.length === 0 ? [] : [sold.slice(0, 1), sold.slice(1), sold];
    const isAdmitted = (one: (typeof situations)[number]): boolean =>
      sets.some((set) => evaluate(admit, { ...one, visitor: buyerOf(one.visitor, set) }, names));
    if (!offered.flat().some(isAdmitted)) add(found, `offers-nothing ${name}`);
  }
}

/** What stands before plain pages, and which nobody reaches. */
function tryPages(prepared: Prepared, found: Found): void {
  for (const page of prepared.site.pages) {
    if (literalOf(page.pattern) === null) continue;
    const ends = EVERYONE.map((visitor) => endOf(prepared, page.example, visitor));
    const firsts = ends.map(({ hops }) => hops[0]!.decision);
    for (const first of firsts) {
      const redirect = appliedRedirect(prepared, first);
      if (redirect) add(found, `redirect-hides-page ${redirect.place.line} ${page.address}`);
    }
    const targets = firsts.map(({ location, reasons }) => {
      const last = reasons.findLast(({ verdict }) => verdict === 'redirected');
      return last?.stage === 'redirect' ? location : null;
    });
    const isMoved = targets[0] !== null && new Set(targets).size === 1;
    const isClosed = page.draft || closureAt(page, NOW) !== null;
    const isReached = ends.some((end) => arrives(end) && !end.fullAccess);
    if (!isMoved && !isClosed && !isReached) add(found, `nobody-reaches ${page.address}`);
  }
}
