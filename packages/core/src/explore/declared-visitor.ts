import type { Purchase, Visitor } from '../model/visitor.ts';
import { printInstant } from '../time/instant.ts';

/** A visitor who was made up, as a site file and a request declare one. */
export function declaredVisitor({
  guest,
  id,
  roles,
  groups,
  bought,
  attributes,
  language,
}: Visitor): Readonly<Record<string, unknown>> {
  if (guest) return { guest: true, ...(language === null ? {} : { language }) };
  return {
    ...(id === null || id === 'someone' ? {} : { id }),
    ...(roles.length > 0 ? { roles } : {}),
    ...(groups.length > 0 ? { groups } : {}),
    ...(bought.length > 0 ? { bought: bought.map(declaredPurchase) } : {}),
    ...(Object.keys(attributes).length > 0 ? { attributes } : {}),
    ...(language === null ? {} : { language }),
  };
}

const declaredPurchase = ({ product, from, until, refunded, paused }: Purchase) => ({
  product,
  ...(from === null ? {} : { from: printInstant(from) }),
  ...(until === null ? {} : { until: printInstant(until) }),
  ...(refunded ? { refunded: true } : {}),
  ...(paused ? { paused: true } : {}),
});
