import type { Explorer } from '../explore/explorer.ts';
import type { Outcome, VisitEnd } from '../visit/visit.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** Guests are asked to sign in at a page that they can't reach: nobody gets in. */
export function signInClosed({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const { signIn, pages, gates } = prepared.site;
  if (signIn === null) return [];
  const made = guestsEnding(
    explorer,
    signIn,
    (outcome) => outcome !== 'reach' && outcome !== 'away',
  );
  if (made === null) return [];
  const reasons = made.hops.flatMap(({ decision }) => decision.reasons);
  const gate = reasons.find(({ verdict }) => verdict === 'refused');
  const page = pages.find(({ address }) => address === signIn);
  const isGated = gate !== undefined;
  return [
    {
      code: 'sign-in-closed',
      severity: 'high',
      subject: { kind: 'page', name: signIn },
      place: gate?.place ?? page?.place ?? prepared.site.place,
      values: { address: signIn, outcome: made.outcome, isGated },
      fix: isGated
        ? openingGate(
            signIn,
            gates.map(({ name }) => name),
          )
        : page
          ? null
          : [{ op: 'add', path: pointer('pages', signIn), value: 'Sign in' }],
    },
  ];
}

/** How the visit of a guest ends who is turned away from an address; null where none is. */
export const turnedAwayGuests = (explorer: Explorer, address: string): VisitEnd | null =>
  guestsEnding(explorer, address, (outcome) => outcome === 'sign-in' || outcome === 'block');

/** How a visit of guests ends, of those ends that are asked for. */
function guestsEnding(
  explorer: Explorer,
  address: string,
  isAsked: (outcome: Outcome) => boolean,
): VisitEnd | null {
  const { atoms } = explorer;
  const part = explorer
    .partsOf(address)
    .find(
      ({ visitors, end }) =>
        isAsked(end.outcome) && atoms.isAnyone(atoms.sets.and(visitors, atoms.guests)),
    );
  return part?.end ?? null;
}

/** A gate that opens one page for everyone. */
export function openingGate(address: string, taken: readonly string[]) {
  const plain = `${address.replace(/[^a-z0-9]+/gi, '-').replace(/^-|-$/g, '') || 'home'}-open`;
  const name = taken.includes(plain) ? `${plain}-2` : plain;
  return [
    { op: 'add' as const, path: pointer('gates', name), value: { at: address, admit: 'anyone' } },
  ];
}
