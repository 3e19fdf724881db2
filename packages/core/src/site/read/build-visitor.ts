import { capitalize } from '../../text/capitalize.ts';
import type * as yup from 'yup';
import type { YamlPath } from '../yaml/document.ts';
import type { FieldReader } from './field-reader.ts';
import { type visitorSchema } from '../fields/visitor-schema.ts';
import { isYes } from '../fields/schema-kinds.ts';
import type { Attribute, Purchase, Visitor } from '../../model/visitor.ts';
import { summarize } from '../../wording/visitor-summary.ts';

/** A visitor as a site file or a request defines one, its shape already checked. */
export type VisitorEntry = yup.InferType<typeof visitorSchema>;

/** Builds a visitor; unknown roles, groups and products are errors at their places. */
export function buildVisitor(
  name: string,
  entry: VisitorEntry,
  path: YamlPath,
  read: FieldReader,
): Visitor {
  const roles = entry.roles ?? [];
  const groups = entry.groups ?? [];
  const guest = isYes(entry.guest);
  roles.forEach((role, position) => read.name('role', role, [...path, 'roles', position]));
  groups.forEach((group, position) => read.name('group', group, [...path, 'groups', position]));
  const bought = (entry.bought ?? []).map((purchase, position): Purchase => {
    const at = [...path, 'bought', position];
    read.name('product', purchase.product, [...at, 'product']);
    const { validFrom, validUntil } = read.period(purchase.from, purchase.until, at);
    return {
      product: purchase.product,
      from: validFrom,
      until: validUntil,
      refunded: isYes(purchase.refunded),
      paused: isYes(purchase.paused),
    };
  });
  for (const field of ['id', 'roles', 'groups', 'bought'] as const) {
    if (!guest || entry[field] === undefined) continue;
    read.list.atKey([...path, field], { code: 'guest-with', field });
  }
  const visitor = {
    guest,
    id: guest ? null : (entry.id ?? name),
    roles,
    groups,
    bought,
    attributes: (entry.attributes ?? {}) as Record<string, Attribute>,
    language: entry.language ?? null,
  };
  return {
    name,
    title: entry.title ?? capitalize(name),
    ...visitor,
    summary: summarize(visitor, read.timeZone),
  };
}
