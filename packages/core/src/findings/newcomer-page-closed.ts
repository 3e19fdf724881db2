import { pathOf } from '../decision/page-at.ts';
import type { Page } from '../model/site.ts';
import type { FindingValues } from '../model/finding.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { openingGate, turnedAwayGuests } from './sign-in-closed.ts';

interface Need {
  readonly severity: FindingDraft['severity'];
  readonly what: FindingValues['newcomer-page-closed']['need'];
}

/** Finds pages that guests need before they have an account, on a site that is closed as a whole. */
export function newcomerPageClosed({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const { signIn, pages, gates } = prepared.site;
  if (signIn === null) return [];
  return pages.flatMap((page): FindingDraft[] => {
    const need = needOf(page, pathOf(prepared, page));
    if (need === null || page.address === signIn) return [];
    const end = turnedAwayGuests(explorer, page.example);
    if (end === null) return [];
    const closing = end.hops
      .flatMap(({ decision }) => decision.reasons)
      .find(({ stage, verdict }) => stage === 'gate' && verdict === 'refused');
    // A gate that stands at the page itself, or at its section, is meant.
    const gate = gates.find(({ name }) => closing?.rule === `gate ${name}`);
    const isWhole =
      gate?.scopes.some(({ pattern, under }) => under && pattern.text === '/') ?? true;
    if (!isWhole) return [];
    return [
      {
        code: 'newcomer-page-closed',
        severity: need.severity,
        subject: { kind: 'page', name: page.address },
        place: closing?.place ?? page.place,
        values: { page: page.address, need: need.what },
        fix: openingGate(
          page.address,
          gates.map(({ name }) => name),
        ),
      },
    ];
  });
}

const REGISTRATION =
  /(?:^|\/)(?:register|registration|sign-?up|join|create-account|new-account|forgot-password|reset-password)(?:\/|$)/;
const LOOKS = /\.(?:css|m?js|woff2?|ttf|otf|ico|svg)$/;

function needOf({ address }: Page, path: string): Need | null {
  if (path === '/') return { severity: 'low', what: 'home' };
  if (REGISTRATION.test(path.toLowerCase())) return { severity: 'high', what: 'registration' };
  return LOOKS.test(address.toLowerCase()) ? { severity: 'medium', what: 'asset' } : null;
}
