import type { Explorer } from '../explore/explorer.ts';
import type { Outcome, VisitEnd } from '../visit/visit.ts';
import { normalizePath } from '../address/tidy.ts';
import { prepareSite, type PreparedSite } from '../decision/prepared-site.ts';
import { literalOf } from '../model/pattern.ts';
import type { Gate, Page, Right } from '../model/site.ts';
import { literalPattern } from '../pattern/parse.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { isOwnAddress } from '../decision/site-address.ts';

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
      values: { address: signIn, outcome: made.outcome, method, isGated, consequences: 0 },
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

/** Returns the site as it would be with a sign-in page that is there and open; null if it has none of its own. */
export function withOpenSignIn({ site }: PreparedSite): PreparedSite | null {
  const { signIn, place, tidy } = site;
  if (!signIn?.startsWith('/')) return null;
  const path = normalizePath(signIn.replace(/[?#].*$/s, ''), tidy);
  const pattern = literalPattern(path, { ignoreCase: tidy.case === 'lower' });
  const always = { validFrom: null, validUntil: null, place };
  const page: Page = {
    ...always,
    address: path,
    pattern,
    example: path,
    title: signIn,
    kind: 'document',
    aliases: [],
    missingUnless: null,
    draft: false,
    leadsTo: null,
    https: false,
    refresh: null,
    listed: true,
    inGrid: false,
  };
  const open = (['view', 'change'] as const).map((right): Gate => ({
    ...always,
    name: `the sign-in page, to ${right}`,
    scopes: [{ pattern, under: false }],
    right,
    admit: { is: 'anyone' },
    otherwise: [],
    narrows: false,
    fullAccess: true,
    rank: Infinity,
  }));
  const others = site.pages.filter((one) => literalOf(one.pattern) !== path);
  return prepareSite({ ...site, pages: [...others, page], gates: [...site.gates, ...open] });
}

/** Returns the end of the visit of a guest whom a rule keeps from an address; null where there is none. */
export const turnedAwayGuests = (explorer: Explorer, address: string): VisitEnd | null =>
  guestsEnding(
    explorer,
    address,
    (outcome, { hops }) =>
      ['sign-in', 'block', 'loop'].includes(outcome) ||
      // A gate hides the page.
      (outcome === 'missing' &&
        hops.some(({ decision }) =>
          decision.reasons.some(({ stage, verdict }) => stage === 'gate' && verdict === 'refused'),
        )),
  );

/** How a visit of guests ends, of those ends that are asked for. */
function guestsEnding(
  explorer: Explorer,
  address: string,
  isAsked: (outcome: Outcome, end: VisitEnd) => boolean,
  method = 'GET',
): VisitEnd | null {
  const { atoms } = explorer;
  const part = explorer
    .partsOf(address, method)
    .find(
      ({ visitors, end }) =>
        isAsked(end.outcome, end) && atoms.isAnyone(atoms.sets.and(visitors, atoms.guests)),
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
