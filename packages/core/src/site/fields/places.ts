import type * as yup from 'yup';
import { SECTIONS, siteSchema } from './schema.ts';
import type { FieldMeta, TextKind } from './schema-kinds.ts';

/** Where texts stand in a site file: the names on the way, `*` for any entry of a map or a list. */
export type Place = readonly string[];

/** Where a site file has texts of a kind: one, or a list of them. */
export function placesOf(kind: TextKind): Place[] {
  return [
    ...within(siteSchema.describe(), kind, ['site']),
    ...Object.entries(SECTIONS).flatMap(([section, { entry }]) =>
      within((entry as yup.Schema).describe(), kind, [section, '*']),
    ),
  ];
}

function within(described: yup.SchemaFieldDescription, kind: TextKind, place: Place): Place[] {
  if ('fields' in described)
    return Object.entries(described.fields).flatMap(([name, field]) =>
      within(field, kind, [...place, name]),
    );
  if ('innerType' in described && !Array.isArray(described.innerType))
    return within(described.innerType, kind, [...place, '*']);
  const meta = ('meta' in described ? described.meta : undefined) as FieldMeta | undefined;
  return meta?.kind === kind ? [place] : [];
}
