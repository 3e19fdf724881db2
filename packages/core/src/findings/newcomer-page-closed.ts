import { pathOf } from '../reach/who-reaches.ts';
import type { Page } from '../model/site.ts';
import { visit } from '../visit/visit.ts';
import type { FindingValues } from '../model/finding.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { openingGate } from './sign-in-closed.ts';
import { GUEST } from '../model/visitor.ts';

interface Need {
  readonly severity: FindingDraft['severity'];
  readonly what: FindingValues['newcomer-page-closed']['need'];
}

/** Finds pages that guests need before they have an account, on a site that is closed as a whole. */
export function newcomerPageClosed({ prepared, at }: InspectionContext): FindingDraft[] {
  const { signIn, pages, gates } = prepared.site;
  if (signIn === null) return [];
  return pages.flatMap((page): FindingDraft[] => {
    const need = needOf(page, pathOf(prepared, page));
    if (need === null || page.address === signIn) return [];
    const { outcome, hops } = visit(prepared, { method: 'GET', address: page.example }, GUEST, at);
    if (outcome !== 'sign-in' && outcome !== 'block') return [];
    const closing = hops
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
