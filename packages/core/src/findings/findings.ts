import type { PreparedSite } from '../decision/prepared-site.ts';
import { Starts } from '../everywhere/starts.ts';
import { familyOf } from '../explore/families.ts';
import { Explorer } from '../explore/explorer.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { aboutOf } from '../model/finding.ts';
import type { Site } from '../model/site.ts';
import { buyerKeptOut } from './buyer-kept-out.ts';
import { changeWithoutView } from './change-without-view.ts';
import { datePassed } from './date-passed.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { fullAccessWide } from './full-access-wide.ts';
import { redirectHidesPage, rewriteHidesPage } from './hidden-pages.ts';
import { hiddenRevealed } from './hidden-revealed.ts';
import { gateCoversNothing } from './gate-covers-nothing.ts';
import { landingClosed } from './landing-closed.ts';
import { legalPageClosed } from './legal-page-closed.ts';
import { menuLeadsNowhere } from './menu-leads-nowhere.ts';
import { menuRedirects } from './menu-redirects.ts';
import { newcomerPageClosed } from './newcomer-page-closed.ts';
import { noExample } from './no-example.ts';
import { nobodyReaches } from './nobody-reaches.ts';
import { offersNothing } from './offers-nothing.ts';
import { openBeneath } from './open-beneath.ts';
import { otherwiseUnused } from './otherwise-unused.ts';
import { personPageClash } from './person-page-clash.ts';
import { productNotSold } from './product-not-sold.ts';
import { productUnused } from './product-unused.ts';
import { redirectChain } from './redirect-chain.ts';
import { redirectDeadEnd } from './redirect-dead-end.ts';
import { redirectLoop } from './redirect-loop.ts';
import { redirectPermanentForSome } from './redirect-permanent-for-some.ts';
import { redirectShadowed } from './redirect-shadowed.ts';
import { redirectToClosed } from './redirect-to-closed.ts';
import { rewriteDeadEnd } from './rewrite-dead-end.ts';
import { rewriteRoundGate } from './rewrite-round-gate.ts';
import { sendsToClosed } from './sends-to-closed.ts';
import { showsMissing } from './shows-missing.ts';
import { signInClosed, withOpenSignIn } from './sign-in-closed.ts';
import { targetUndeclared } from './target-undeclared.ts';
import { tie } from './tie.ts';
import { unlistedLinked } from './unlisted-linked.ts';
import { accepts, unusedAcceptance } from './unused-acceptance.ts';

/** Everything that is looked for, one file each. */
const INSPECTIONS: readonly ((inspected: InspectionContext) => FindingDraft[])[] = [
  signInClosed,
  legalPageClosed,
  newcomerPageClosed,
  landingClosed,
  sendsToClosed,
  showsMissing,
  targetUndeclared,
  openBeneath,
  hiddenRevealed,
  fullAccessWide,
  changeWithoutView,
  nobodyReaches,
  offersNothing,
  productUnused,
  productNotSold,
  buyerKeptOut,
  otherwiseUnused,
  gateCoversNothing,
  menuLeadsNowhere,
  menuRedirects,
  unlistedLinked,
  redirectLoop,
  redirectChain,
  redirectShadowed,
  redirectDeadEnd,
  redirectHidesPage,
  redirectToClosed,
  redirectPermanentForSome,
  rewriteDeadEnd,
  rewriteHidesPage,
  rewriteRoundGate,
  noExample,
  personPageClash,
  datePassed,
  tie,
];

/**
 * Finds what looks wrong in a site, in the order of the site file; a cause comes before all, without its consequences.
 * The result has no findings that the file accepts.
 *
 * @param at the moment for which the site is looked at, in milliseconds since 1970
 */
export function findFindings(prepared: PreparedSite, at: number): FindingDraft[] {
  const found = inspectAll(prepared, at);
  const { accepted } = prepared.site;
  const isAccepted = (found: FindingDraft): boolean => accepted.some((one) => accepts(one, found));
  const shown = withoutConsequences(prepared, at, found).filter((one) => !isAccepted(one));
  return [...shown, ...unusedAcceptance(accepted, found)].sort(
    (a, b) =>
      Number(b.code === 'sign-in-closed') - Number(a.code === 'sign-in-closed') ||
      a.place.line - b.place.line ||
      a.place.column - b.place.column,
  );
}

/** Leaves out findings that follow from a closed sign-in page: those that are gone when the page is open. */
function withoutConsequences(
  prepared: PreparedSite,
  at: number,
  found: readonly FindingDraft[],
): FindingDraft[] {
  const cause = found.find(({ code }) => code === 'sign-in-closed');
  const opened = cause ? withOpenSignIn(prepared) : null;
  if (cause?.code !== 'sign-in-closed' || opened === null) return [...found];
  const keyOf = ({ code, subject }: FindingDraft): string => `${code} ${aboutOf(subject)}`;
  const remaining = new Set(inspectAll(opened, at).map(keyOf));
  const kept = found.filter((one) => one !== cause && remaining.has(keyOf(one)));
  const consequences = found.length - kept.length - 1;
  return [{ ...cause, values: { ...cause.values, consequences } }, ...kept];
}

/** Finds all, with what follows from a closed sign-in page, and what the file accepts. */
export function inspectAll(prepared: PreparedSite, at: number): FindingDraft[] {
  const explorer = new Explorer(prepared, at);
  const limits = { isReached: false };
  const reportLimit = (): void => void (limits.isReached = true);
  const inspected: InspectionContext = {
    prepared,
    explorer,
    starts: new Starts([explorer]),
    at,
    familiesOf: (page) => {
      const known = explorer.knownFamiliesOf(page);
      if (known === null) reportLimit();
      return known ?? [familyOf(page.example)];
    },
    reportLimit,
  };
  const settled = INSPECTIONS.map((inspection) => settle(inspection, inspected));
  return [
    ...settled.flatMap((drafts) => drafts ?? []),
    ...(limits.isReached || settled.includes(null) ? [tooManyCases(prepared.site)] : []),
  ];
}

/** What is looked for; null where the conditions have more cases than can be told apart. */
function settle(
  inspection: (inspected: InspectionContext) => FindingDraft[],
  inspected: InspectionContext,
): FindingDraft[] | null {
  try {
    return inspection(inspected);
  } catch (error) {
    if (error instanceof TooManyCases) return null;
    throw error;
  }
}

const tooManyCases = ({ place }: Site): FindingDraft => ({
  code: 'too-many-cases',
  severity: 'medium',
  subject: { kind: 'site', name: 'conditions' },
  place,
  values: {},
});
