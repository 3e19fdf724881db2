import type { Condition } from '../condition/condition.ts';
import { literalOf } from '../pattern/pattern.ts';
import { leftOut } from '../reach/left-out.ts';
import { closedNow, conditionOf, pageAt } from '../reach/who-reaches.ts';
import { GUEST } from '../site/visitor.ts';
import { visit } from '../visit/visit.ts';
import type { Found, Inspected } from './found.ts';
import { redirectSamples } from './redirect-samples.ts';

/** A redirect sends people to a page that turns some of them away. To be asked to sign in is no refusal. */
export function redirectToClosed(inspected: Inspected): Found[] {
  const { prepared, at } = inspected;
  return redirectSamples(inspected).flatMap(({ redirect, visit: made }): Found[] => {
    const target = made.hops[1]?.address;
    if (target === undefined || literalOf(redirect.to.path) === null) return [];
    const page = pageAt(prepared, target)?.rule.page;
    if (!page || closedNow(page, at, prepared.site.timeZone) !== null) return [];
    const { outcome } = visit(prepared, { method: 'GET', address: target }, GUEST, at);
    // Where guests may sign in, an old address leads to a closed page as the page's own address does.
    if (redirect.when === null && outcome === 'sign-in') return [];
    const sent: Condition[] = [
      redirect.when ?? { is: 'anyone' },
      ...(outcome === 'sign-in' ? [{ is: 'signed-in' as const }] : []),
    ];
    const reach = conditionOf(prepared, page, at, 'view').condition;
    const who = leftOut(prepared, { is: 'and', of: sent }, reach);
    if (who === null) return [];
    return [
      {
        code: 'redirect-to-closed',
        severity: 'low',
        about: `redirect ${redirect.name}`,
        place: redirect.place,
        message: `The redirect from ${redirect.name} leads to ${target}, which ${who} can't see.`,
        remedy: 'Say with "when" whom it is for, and send the others elsewhere.',
      },
    ];
  });
}
