import { printDay } from '../time/instant.ts';
import type { Visitor } from '../model/visitor.ts';

/** Says in a few words what makes a visitor who they are. */
export function summarize(
  visitor: Omit<Visitor, 'summary' | 'name' | 'title'>,
  timeZone: string,
): string {
  if (visitor.guest) return 'guest';
  const traits = [
    ...visitor.roles,
    ...visitor.groups.map((group) => `in ${group}`),
    ...visitor.bought.map(({ product, until, refunded, paused }) => {
      if (refunded) return `${product} refunded`;
      if (paused) return `${product} paused`;
      return until === null ? `bought ${product}` : `${product} until ${printDay(until, timeZone)}`;
    }),
  ];
  return traits.length > 0 ? traits.join(', ') : 'signed in';
}
