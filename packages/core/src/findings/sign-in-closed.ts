import type { Explorer } from '../explore/explorer.ts';
import type { Outcome, VisitEnd } from '../visit/visit.ts';
import type { Right } from '../model/site.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { isOwnAddress } from './own-address.ts';

/** Guests can't reach the page that asks them to sign in, or can't send its form: nobody gets in. */
export function signInClosed({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const { signIn, pages, gates } = prepared.site;
  if (signIn === null || !isOwnAddress(prepared, signIn)) return [];
  const isLost = (outcome: Outcome): boolean => outcome !== 'reach' && outcome !== 'away';
  const shown = guestsEnding(explorer, signIn, isLost);
  const form = guestsEnding(explorer, signIn, (outcome) => outcome === 'reach')?.hops.at(
    -1,
  )!.address;
  const made = shown ?? (form === undefined ? null : guestsEnding(explorer, form, isLost, 'POST'));
  if (made === null) return [];
  const method = shown === null ? 'POST' : 'GET';
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
      values: { address: signIn, outcome: made.outcome, method, isGated },
      fix: isGated
        ? openingGate(
            signIn,
            gates.map(({ name }) => name),
            method === 'POST' ? 'change' : 'view',
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
  method = 'GET',
): VisitEnd | null {
  const { atoms } = explorer;
  const part = explorer
    .partsOf(address, method)
    .find(
      ({ visitors, end }) =>
        isAsked(end.outcome) && atoms.isAnyone(atoms.sets.and(visitors, atoms.guests)),
    );
  return part?.end ?? null;
}

/** A gate that opens one page for everyone. */
export function openingGate(address: string, taken: readonly string[], right: Right = 'view') {
  const plain = `${address.replace(/[^a-z0-9]+/gi, '-').replace(/^-|-$/g, '') || 'home'}-open`;
  const name = taken.includes(plain) ? `${plain}-2` : plain;
  return [
    {
      op: 'add' as const,
      path: pointer('gates', name),
      value: { at: address, admit: 'anyone', ...(right === 'change' ? { right } : {}) },
    },
  ];
}
