import { evaluate } from '../src/condition/evaluate.ts';
import { closureAt, pageAt } from '../src/decision/page-at.ts';
import { findFindings } from '../src/findings/findings.ts';
import { decisions, type model } from '../src/index.ts';
import type { FindingDraft, People } from '../src/model/finding.ts';
import { literalOf } from '../src/model/pattern.ts';
import { exampleOfRedirect } from '../src/pattern/example.ts';
import { appliedRedirect } from '../src/redirects/applied.ts';
import { endOf, EVERYONE, randomSites, SEED, SITES } from './reference/everyone.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { NOW } from './support.ts';

type Prepared = decisions.PreparedSite;
type Redirect = Prepared['site']['redirects'][number];

/** What is found, with everyone whom it is about. */
type Found = Map<string, Set<model.Visitor>>;

function add(found: Found, key: string, ...visitors: readonly model.Visitor[]): void {
  const all = found.get(key) ?? new Set();
  visitors.forEach((visitor) => all.add(visitor));
  found.set(key, all);
}

const arrives = ({ outcome }: { outcome: string }): boolean =>
  outcome === 'reach' || outcome === 'away';
const isPlain = ({ pattern, to }: Redirect): boolean =>
  literalOf(pattern) !== null && literalOf(to.path) !== null;

/** By visiting as each of everyone there could be. */
function byTrial(prepared: Prepared): Found {
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
    for (const { name, links } of site.menus.filter(({ onlyUsable }) => !onlyUsable))
      for (const link of links.filter((one) => one.startsWith('/'))) {
        const end = endOf(prepared, link, visitor);
        const isAsked = end.outcome === 'sign-in' && visitor.guest;
        if (!arrives(end) && !isAsked) add(found, `menu-leads-nowhere ${name} ${link}`, visitor);
      }
    trySending(prepared, visitor, found);
  }
  tryPages(prepared, found);
  return found;
}

/** Whom gates send to where they get nowhere. */
function trySending(prepared: Prepared, visitor: model.Visitor, found: Found): void {
  const { pages, gates } = prepared.site;
  const scopes = gates.flatMap((gate) => gate.scopes.map(({ pattern }) => pattern));
  const literals = [...pages.map(({ pattern }) => pattern), ...scopes].flatMap(
    (pattern) => literalOf(pattern) ?? [],
  );
  const methods = gates.some(({ right }) => right === 'change') ? ['GET', 'POST'] : ['GET'];
  for (const address of new Set(literals))
    for (const method of methods)
      for (const { decision } of endOf(prepared, address, visitor, method).hops)
        for (const { code, values } of decision.reasons) {
          if (code !== 'not-admitted' || values.then.do !== 'send') continue;
          if (!arrives(endOf(prepared, values.then.to, visitor)))
            add(found, `sends-to-closed ${values.gate} ${values.then.to}`, visitor);
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

/** What is found without visiting. */
function byRules(prepared: Prepared): Found {
  const found: Found = new Map();
  const redirects = new Map(prepared.site.redirects.map((one) => [one.place.line, one]));
  for (const draft of findFindings(prepared, NOW)) addDraft(prepared, draft, redirects, found);
  return found;
}

function addDraft(
  prepared: Prepared,
  draft: FindingDraft,
  redirects: ReadonlyMap<number, Redirect>,
  found: Found,
): void {
  const { line } = draft.place;
  const meant = (who: People): model.Visitor[] => peopleAmong(who, prepared);
  switch (draft.code) {
    case 'landing-closed': {
      const { after, address, who } = draft.values;
      add(found, `landing-closed ${after} ${address}`, ...meant(who));
      break;
    }
    case 'redirect-loop':
      add(found, `redirect-loop ${line}`, ...meant(draft.values.who));
      break;
    case 'redirect-dead-end':
      if (isPlain(redirects.get(line)!)) add(found, `redirect-dead-end ${line}`);
      break;
    case 'menu-leads-nowhere':
      for (const { link, who } of draft.values.links)
        add(found, `menu-leads-nowhere ${draft.values.menu} ${link}`, ...meant(who));
      break;
    case 'sends-to-closed': {
      const { gate, to, who } = draft.values;
      add(found, `sends-to-closed ${gate} ${to}`, ...(who === null ? [] : meant(who)));
      break;
    }
    case 'redirect-hides-page':
      for (const page of draft.values.pages) add(found, `redirect-hides-page ${line} ${page}`);
      break;
    case 'nobody-reaches':
      if (!/[:*]/.test(draft.values.page)) add(found, `nobody-reaches ${draft.values.page}`);
      break;
  }
}

const peopleAmong = (who: People, { names }: Prepared): model.Visitor[] =>
  who === 'everyone'
    ? [...EVERYONE]
    : EVERYONE.filter((visitor) =>
        evaluate(who.condition, { visitor, at: NOW, path: {}, query: '' }, names),
      );

/** Findings that say whom they are about: exactly those. */
const NAMES_PEOPLE = /^(?:landing-closed sign-in|redirect-loop|menu-leads-nowhere) /;

test('each finding about all visitors is true, and none is missing', () => {
  let count = 0;
  for (const [prepared, text] of randomSites(chance(randomBy(SEED)), SITES / 4)) {
    const [tried, ruled] = [byTrial(prepared), byRules(prepared)];
    const told = (found: Found) =>
      [...found]
        .map(([key, visitors]) => [
          key,
          NAMES_PEOPLE.test(key) ? EVERYONE.filter((one) => visitors.has(one)).length : null,
        ])
        .sort();
    const [expected, actual] = [told(tried), told(ruled)].map((one) =>
      JSON.stringify(one, null, 1),
    );
    if (actual !== expected) throw new Error(`${actual}\n instead of \n${expected}\n${text}`);
    count += tried.size;
  }
  expect(count).toBeGreaterThan(20);
});
