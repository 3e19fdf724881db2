import { decodePathText } from '../address/canonical-path.ts';
import type { Groups } from '../pattern/fill.ts';
import type { NotFoundRule } from '../model/site.ts';
import { lookUp, type Match } from '../pattern/pattern-index.ts';
import { whoIs, type Content, type DecisionContext, type Ending } from './decision.ts';
import type { Reason } from '../model/reason.ts';
import { visiblePage } from './concealment.ts';
import type { PreparedPage } from './prepared-site.ts';
import { siteAddress, type SiteAddress } from './site-address.ts';
import { NO_GROUPS } from '../pattern/matched-groups.ts';

const PLAIN: Reason = {
  stage: 'not-found',
  rule: null,
  verdict: 'missing',
  code: 'no-not-found-rule',
  values: {},
  place: null,
};

/** Answers for what is not there with the nearest not-found rule. Always ends. */
export const notFoundStage = (context: DecisionContext): Ending => answerMissing(context);

/**
 * The answer where nothing is. A gate that hides a page gives it too, so that a hidden page and a
 * missing one can't be told apart.
 */
export function answerMissing(context: DecisionContext): Ending {
  const [match] = lookUp(context.prepared.notFound, context.address.path);
  if (match === undefined) {
    context.reasons.push(PLAIN);
    return { outcome: 'missing', status: 404 };
  }
  const { rule } = match;
  context.reasons.push({
    stage: 'not-found',
    rule: `not-found ${rule.name}`,
    verdict: 'missing',
    code: 'not-found-rule',
    values: { under: rule.name },
    place: rule.place,
  });
  const content: Content | null =
    rule.show === null ? wordsOf(context, match) : { is: 'page', address: rule.show };
  return { outcome: 'missing', status: rule.status, content };
}

/** Answers for what another address of a hidden page would show. */
export function hide(context: DecisionContext): Ending {
  context.reasons.push({
    stage: 'gate',
    rule: null,
    verdict: 'refused',
    code: 'target-hidden',
    values: whoIs(context.visitor),
    place: null,
  });
  return answerMissing(context);
}

/** The steps of the address beyond the section that the rule is for. */
function remainder(context: DecisionContext, { rule }: Match<NotFoundRule>): string[] {
  const depth = rule.scope.pattern.text === '/' ? 0 : rule.scope.pattern.text.split('/').length - 1;
  return context.address.path.split('/').slice(depth + 1);
}

/** The words of a rule; null where every sentence wants something that is absent. */
function wordsOf(context: DecisionContext, match: Match<NotFoundRule>): Content | null {
  const values = { ...match.groups, ...groupsAt(context) };
  const rest = remainder(context, match).map(decodePathText);
  const query = new URLSearchParams(context.address.query);
  const valueOf = (kind: string, name: string): string | null | undefined => {
    if (kind === 'query') return query.get(name);
    if (kind === 'path')
      return Object.hasOwn(values, name) ? decodePathText(values[name]!) : undefined;
    return name === '' ? rest.join('/') : rest[Number(name) - 1];
  };
  const text = fillWords(match.rule.say ?? '', valueOf);
  return text === '' ? null : { is: 'words', text };
}

/** The pieces of the page at this address, whether it is there at the moment or not. */
const groupsAt = (context: DecisionContext): Groups =>
  (knownPage(context, context.address) ?? knownPage(context, context.served?.address))?.groups ??
  NO_GROUPS;

/** The page that the visitor may know: where a gate hides the address, one whose example it does not hide. */
function knownPage(
  context: DecisionContext,
  address: SiteAddress | null | undefined,
): Match<PreparedPage> | null {
  if (!address?.isHome) return null;
  const page = visiblePage(context, address);
  if (page !== null || address.page === null) return page;
  const { prepared } = context;
  const known = lookUp(prepared.pages, address.path).find(({ rule }) => {
    const example = siteAddress(prepared, rule.page.example);
    return example.ok && visiblePage(context, example.address) !== null;
  });
  return known ?? null;
}

const SLOT = /\{(path|query|rest)(?:\.([^}]+))?\}/g;

/**
 * Fills words with values, as plain text: whoever shows them as HTML escapes the whole. A sentence that wants
 * a value that is absent is left out.
 */
function fillWords(
  words: string,
  valueOf: (kind: string, name: string) => string | null | undefined,
): string {
  const sentences = words.split(/(?<=[.!?…])\s+/);
  const filled = sentences.map((sentence) => {
    const isWhole = [...sentence.matchAll(SLOT)].every(([, kind, name = '']) =>
      valueOf(kind!, name),
    );
    if (!isWhole) return null;
    return sentence.replace(
      SLOT,
      (_, kind: string, name = '') => valueOf(kind, String(name)) ?? '',
    );
  });
  return filled.filter((sentence) => sentence !== null).join(' ');
}
