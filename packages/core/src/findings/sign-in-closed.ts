import { GUEST } from '../site/visitor.ts';
import { visit } from '../visit/visit.ts';
import type { Found, Inspected } from './found.ts';

/** Guests are asked to sign in at a page that they can't reach: nobody gets in. */
export function signInClosed({ prepared, at }: Inspected): Found[] {
  const { signIn, pages } = prepared.site;
  if (signIn === null) return [];
  const made = visit(prepared, { method: 'GET', address: signIn }, GUEST, at);
  if (made.outcome === 'reach' || made.outcome === 'away') return [];
  const rule = made.hops
    .flatMap(({ decision }) => decision.reasons)
    .find(({ verdict }) => verdict === 'refused');
  const page = pages.find(({ address }) => address === signIn);
  return [
    {
      code: 'sign-in-closed',
      severity: 'high',
      place: rule?.place ?? page?.place ?? prepared.site.place,
      message: `Guests are asked to sign in at ${signIn}, and a guest's visit there ends as ${made.outcome}: nobody can sign in.`,
      remedy: rule?.rule
        ? `Add a gate at ${signIn} that admits anyone.`
        : `Add ${signIn} to the pages, or name another page as sign-in.`,
    },
  ];
}
