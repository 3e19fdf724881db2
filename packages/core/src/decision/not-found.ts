import { decodePathText } from '../pattern/canonical.ts';
import type { Groups } from '../pattern/fill.ts';
import type { NotFoundRule } from '../site/site.ts';
import { lookUp, type Match } from '../pattern/index-of-patterns.ts';
import type { Content, Deciding, Ending } from './decision.ts';
import type { Reason } from './reason.ts';

const PLAIN: Reason = {
  stage: 'not-found',
  rule: null,
  verdict: 'missing',
  text: 'No not-found rule covers this address.',
  place: null,
};

/** Answers for what is not there with the nearest not-found rule. Always ends. */
export function notFoundStage(on: Deciding): Ending {
  return answerMissing(on, on.found?.groups ?? {});
}

/**
 * The answer where nothing is. A gate that hides a page gives it too, so that a hidden page and a
 * missing one can't be told apart.
 */
export function answerMissing(on: Deciding, groups: Groups): Ending {
  const [match] = lookUp(on.prepared.notFound, on.address.path);
  if (match === undefined) {
    on.reasons.push(PLAIN);
    return { outcome: 'missing', status: 404 };
  }
  const { rule } = match;
  on.reasons.push({
    stage: 'not-found',
    rule: `not-found ${rule.name}`,
    verdict: 'missing',
    text: `Nothing is here; the not-found rule under ${rule.name} says what is shown.`,
    place: rule.place,
  });
  const content: Content =
    rule.show === null
      ? {
          is: 'words',
          text: fillWords(rule.say ?? '', { ...match.groups, ...groups }, remainder(on, match)),
        }
      : { is: 'page', address: rule.show };
  return { outcome: 'missing', status: rule.status, content };
}

/** The steps of the address beyond the section that the rule is for. */
function remainder(on: Deciding, { rule }: Match<NotFoundRule>): string[] {
  const depth =
    rule.extent.pattern.text === '/' ? 0 : rule.extent.pattern.text.split('/').length - 1;
  return on.address.path.split('/').slice(depth + 1);
}

/** Values stand in the words as plain text; whoever shows them as HTML escapes the whole. */
function fillWords(words: string, groups: Groups, rest: readonly string[]): string {
  return words
    .replace(/\{path\.([^}]+)\}/g, (_, name: string) => decodePathText(groups[name] ?? ''))
    .replace(/\{rest(?:\.([1-9]\d?))?\}/g, (_, step?: string) =>
      step === undefined
        ? rest.map(decodePathText).join('/')
        : decodePathText(rest[Number(step) - 1] ?? ''),
    );
}
