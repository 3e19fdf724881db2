import { sectionDeclarations, siteDeclaration, type FieldDeclaration } from './declarations.ts';
import type { TextKind } from './schema-kinds.ts';

/** Where values are in a site file: the names of fields, and `*` for any entry of a map or a list. */
export type Place = readonly string[];

/** Where a site file has texts of a kind: one, or a list of them. */
export const placesOf = (kind: TextKind): Place[] => [
  ...within(siteDeclaration(), kind, ['site']),
  ...sectionDeclarations().flatMap(({ section, entry }) => within(entry, kind, [section, '*'])),
];

function within(declared: FieldDeclaration, kind: TextKind, place: Place): Place[] {
  if (declared.kind === kind) return [place];
  const inside = declared.kind === 'rows' ? [...place, '*'] : place;
  return declared.fields.flatMap((field) => within(field, kind, [...inside, field.name]));
}
