import { visit } from '../visit/visit.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { GUEST } from '../model/visitor.ts';

/** Guests are asked to sign in at a page that they can't reach: nobody gets in. */
export function signInClosed({ prepared, at }: InspectionContext): FindingDraft[] {
  const { signIn, pages, gates } = prepared.site;
  if (signIn === null) return [];
  const made = visit(prepared, { method: 'GET', address: signIn }, GUEST, at);
  if (made.outcome === 'reach' || made.outcome === 'away') return [];
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

/** A gate that opens one page for everyone. */
export function openingGate(address: string, taken: readonly string[]) {
  const plain = `${address.replace(/[^a-z0-9]+/gi, '-').replace(/^-|-$/g, '') || 'home'}-open`;
  const name = taken.includes(plain) ? `${plain}-2` : plain;
  return [
    { op: 'add' as const, path: pointer('gates', name), value: { at: address, admit: 'anyone' } },
  ];
}
