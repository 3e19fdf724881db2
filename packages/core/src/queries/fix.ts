import { prepareSite, type PreparedSite } from '../decision/prepared-site.ts';
import { introducedFindings } from '../findings/introduced.ts';
import type { Finding, FindingCode } from '../model/finding.ts';
import type { PatchOperation } from '../model/patch-operation.ts';
import { patchSite, PatchProblem } from '../site/edit/patch.ts';
import { readSite } from '../site/read/read.ts';
import type { ListOf } from '../site/read/redirect-list.ts';
import { compareSites } from './comparison.ts';
import { explainErrors } from './explain.ts';
import { inspect } from './inspect.ts';
import type { ListedDifference } from './listed-difference.ts';

/** A site file with findings to fix. */
interface Fixable {
  readonly text: string;
  readonly name: string;
  readonly listOf: ListOf;
}

/** The result of fixing findings. */
export interface TriedFix {
  readonly text: string;
  readonly patch: readonly PatchOperation[];
  /** Why the fix is refused. Null if it does exactly what it should. */
  readonly refusal: string | null;
}

/** Fixes that open or uncover a page. Visits to that page are meant to change. */
const OPENING: ReadonlySet<FindingCode> = new Set<FindingCode>([
  'sign-in-closed',
  'legal-page-closed',
  'newcomer-page-closed',
  'redirect-hides-page',
  'rewrite-hides-page',
  'shows-missing',
]);
/** Findings that opening a page can reveal: the page is now an exception, or a sign-in loop hid another closed page. */
const OPENED: ReadonlySet<FindingCode> = new Set<FindingCode>([
  'open-beneath',
  'legal-page-closed',
  'newcomer-page-closed',
]);
const MOST_TOLD = 3;

/**
 * Fixes or accepts findings and checks the result. The findings must be gone, without new ones. For every visitor, only
 * the visits that the remedy is about may change.
 *
 * @param note why they are accepted; null to fix them
 * @param at the moment of the check, in milliseconds since 1970
 */
export function tryFix(
  file: Fixable,
  before: PreparedSite,
  wanted: readonly Finding[],
  note: string | null,
  at: number,
): TriedFix {
  const patch = note === null ? remedies(wanted) : acceptances(wanted, note);
  const refused = (refusal: string): TriedFix => ({ text: file.text, patch, refusal });
  let text: string;
  try {
    text = patchSite(file.text, patch);
  } catch (error) {
    if (!(error instanceof PatchProblem)) throw error;
    return refused(error.message);
  }
  const read = readSite(text, file.name, file.listOf);
  if (!read.ok) {
    const [first] = explainErrors(read.errors);
    return refused(`The site file would have an error: line ${first!.line}: ${first!.message}`);
  }
  const after = prepareSite(read.site);
  const findings = inspect(after, file.name, at);
  const left = wanted.find((one) =>
    findings.some(({ code, about }) => code === one.code && about === one.about),
  );
  if (left) return refused(`The finding would remain: ${left.message}`);
  const isOpening = wanted.some(({ code }) => OPENING.has(code));
  const [introduced] = introducedFindings(inspect(before, file.name, at), findings).filter(
    ({ code }) => !(isOpening && OPENED.has(code)),
  );
  if (introduced) return refused(`Another finding would appear: ${introduced.message}`);
  const others = compareSites(before, after, at).differences.filter(
    (difference) => !wanted.some((finding) => isIntended(finding, difference)),
  );
  return others.length === 0 ? { text, patch, refusal: null } : refused(told(others));
}

/** Starts with the last one: removing an item from a list moves the items after it. */
const remedies = (wanted: readonly Finding[]): PatchOperation[] =>
  [...wanted].reverse().flatMap(({ fix }) => fix ?? []);

function acceptances(wanted: readonly Finding[], note: string): PatchOperation[] {
  const once = new Map(
    wanted.map(({ code, about }) => [`${code} ${about}`, { finding: code, about, note }]),
  );
  return [...once.values()].map((value) => ({ op: 'add', path: '/accepted/-', value }));
}

function isIntended(
  { code, values }: Finding,
  { about, before, after }: ListedDifference,
): boolean {
  // The target stays the same, with fewer redirects.
  if (code === 'redirect-chain')
    return before?.outcome === after?.outcome && before?.final === after?.final;
  // Whoever looped gets on; search engines may list the page then.
  if (code === 'redirect-loop')
    return before?.outcome === 'loop' || (before === null && after === null);
  // The redirect becomes temporary.
  if (code === 'redirect-permanent-for-some') return after !== null && about === values['source'];
  if (!OPENING.has(code)) return false;
  const pages = [values['address'], values['page'], ...[values['pages'] ?? []].flat()];
  return pages.some((page) => page === about || page === after?.final.split('?')[0]);
}

function told(differences: readonly ListedDifference[]): string {
  const some = differences.slice(0, MOST_TOLD).map(({ about, words, before, after }) => {
    const [was, is] = [before, after].map((one) => one?.outcome ?? 'nothing');
    return `${about}, for ${words}: ${was} becomes ${is}`;
  });
  const more = differences.length - some.length;
  return `It would change more than the finding is about. ${some.join('. ')}${more > 0 ? `. And ${more} more` : ''}.`;
}
