import { NONE } from '../explore/visitor-sets.ts';
import { compareLandings } from '../landing/landing.ts';
import type { Landing } from '../model/site.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** Some of those who land on a page after signing in or out can't see it. */
export function landingClosed({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const { atoms } = explorer;
  const { sets } = atoms;
  const { landings } = prepared.site;
  // Nothing is known of an address when someone signs in: `query.q` is absent.
  const isFor = ({ who }: Landing): number => atoms.setOf(who, { path: {}, query: '' });
  return landings.flatMap((landing, position) => {
    const { after, go, place } = landing;
    const earlier = landings.filter((one, i) => {
      const order = compareLandings(one, landing);
      return one.after === after && (order < 0 || (order === 0 && i < position));
    });
    const signedIn = sets.and(
      atoms.signedIn,
      sets.without(isFor(landing), sets.anyOf(earlier.map(isFor))),
    );
    // Whoever has signed out arrives as a guest.
    const arriving =
      after === 'sign-in' ? signedIn : atoms.isAnyone(signedIn) ? atoms.guests : NONE;
    const who = explorer.describe(sets.and(arriving, explorer.lostAt(go)));
    if (who === null) return [];
    return [
      {
        code: 'landing-closed' as const,
        severity: 'high' as const,
        subject: { kind: 'landing', name: `${after} ${go}` },
        place,
        values: { after, who: after === 'sign-out' ? 'everyone' : who, address: go },
      },
    ];
  });
}
