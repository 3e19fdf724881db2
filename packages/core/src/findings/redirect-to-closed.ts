import { closureAt } from '../decision/page-at.ts';
import { siteAddress } from '../decision/site-address.ts';
import type { People } from '../model/finding.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { ARRIVED } from '../explore/explorer.ts';
import { NONE } from '../explore/visitor-sets.ts';
import {
  isFilled,
  partsThat,
  redirectSamples,
  sentTo,
  type Sample,
  type Sent,
  type Way,
} from './redirect-samples.ts';

/** The address of the site to which a redirect leads; null for another website. */
const targetOf = ({ parts }: Sent): string | null => parts[0]?.end.hops[0]?.address ?? null;

/**
 * A redirect sends visitors to a page that refuses some of them; if it fills its target with pieces of the address, to
 * such pages at all of its addresses. A request to sign in is no refusal.
 */
export function redirectToClosed(inspected: InspectionContext): FindingDraft[] {
  const { prepared, at } = inspected;
  const asking = partsThat(({ end }) => end.outcome === 'sign-in');
  // A loop has a finding of its own.
  const losing = partsThat(({ end }) => ![...ARRIVED, 'loop'].includes(end.outcome));
  const leadsToPage = (one: Sent): boolean => {
    const target = targetOf(one);
    const read = target === null ? null : siteAddress(prepared, target);
    if (!read?.ok || !read.address.isHome) return false;
    const { page, path } = read.address;
    // A redirect keeps an alias as its target only if the page is hidden from the visitor.
    return page !== null && !prepared.primary.has(path) && closureAt(page.rule.page, at) === null;
  };
  const lostBy = ({ redirect }: Sample, way: Way): { location: string; who: People } | null => {
    const { explorer } = way;
    const { atoms } = explorer;
    const sent = way.sent.filter(leadsToPage);
    const lost = sentTo({ explorer, sent }, losing);
    if (lost === NONE) return null;
    const asked = atoms.sets.and(sentTo(way, asking), atoms.guests);
    // Where guests may sign in, an old address redirects to a closed page as the page's own address does.
    if (redirect.when === null && atoms.isAnyone(asked)) return null;
    const who = explorer.describe(atoms.sets.without(lost, asked));
    const first = sent.find((one) => sentTo({ explorer, sent: [one] }, losing) !== NONE);
    return who && { location: targetOf(first!)!, who };
  };
  return redirectSamples(inspected).flatMap((sample): FindingDraft[] => {
    const { redirect } = sample;
    const lost = sample.ways.map((way) => lostBy(sample, way));
    const found = lost.find((one) => one !== null);
    if (!found || (isFilled(redirect) && lost.includes(null))) return [];
    return [
      {
        code: 'redirect-to-closed',
        severity: 'low',
        subject: { kind: 'redirect', name: redirect.source },
        place: redirect.place,
        values: { source: redirect.source, ...found },
      },
    ];
  });
}
