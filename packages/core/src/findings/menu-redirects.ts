import { GUEST } from '../site/visitor.ts';
import { visit } from '../visit/visit.ts';
import type { Found, Inspected } from './found.ts';

/** A menu leads to an address that a redirect leads on from: each click costs a second request. */
export function menuRedirects({ prepared, at }: Inspected): Found[] {
  return prepared.site.menus.flatMap(({ name, links, place }) =>
    links.flatMap((link): Found[] => {
      const { hops } = visit(prepared, { method: 'GET', address: link }, GUEST, at);
      const rule = hops[0]?.decision.reasons.find(
        ({ stage, verdict }) => stage === 'redirect' && verdict === 'redirected',
      );
      if (!rule) return [];
      return [
        {
          code: 'menu-redirects',
          severity: 'low',
          about: `menu ${name}`,
          place,
          message: `The menu ${name} leads to ${link}, and a redirect from there to ${hops[0]!.decision.location ?? 'elsewhere'}.`,
          remedy: 'Put the address where the redirect ends into the menu.',
        },
      ];
    }),
  );
}
