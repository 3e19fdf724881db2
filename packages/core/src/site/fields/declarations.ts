import type * as yup from 'yup';
import { ENTRY_NAMES, type SectionName } from '../../model/section.ts';
import { SECTIONS } from './schema.ts';
import { siteSchema } from './site-schema.ts';
import type { FieldMeta, TextKind } from './schema-kinds.ts';

/** A field of the site file as it is declared: for forms, completion, the JSON Schema, CSV and renames. */
export interface FieldDeclaration {
  /** Empty for an entry that is nothing but one value. */
  readonly name: string;
  /** What it is called in forms. */
  readonly title: string;
  readonly help: string | null;
  /** What its text means; what it is where it is no text. */
  readonly kind: TextKind | 'choice' | 'integer' | 'flag' | 'map' | 'fields' | 'rows';
  readonly isList: 'never' | 'also' | 'always';
  readonly isRequired: boolean;
  /** Few entries have it: forms show it on demand. */
  readonly isSeldom: boolean;
  readonly isNullable: boolean;
  /** What it may be; empty where that is open. */
  readonly choices: readonly (string | number | boolean)[];
  /** Numbers that are read as a choice each. */
  readonly codes: readonly number[];
  /** What holds where nothing is written; null where nothing does. */
  readonly usual: string | number | null;
  /** The fields within, of `fields` and of each of the `rows`. */
  readonly fields: readonly FieldDeclaration[];
  /** What one of the `rows` is called. */
  readonly one: string | null;
  /** The other names of its column in CSV files; null where it has no column. */
  readonly columns: readonly string[] | null;
}

/** A section of the site file as it is declared. */
export interface SectionDeclaration {
  readonly section: SectionName;
  readonly is: 'map' | 'list';
  /** What one entry is called. */
  readonly one: string;
  readonly about: string;
  readonly entry: FieldDeclaration;
}

/** The fields of the site itself. */
export const siteDeclaration = (): FieldDeclaration => declarationOf('site', siteSchema.describe());

/** A section of the site file. */
export function sectionDeclaration(section: SectionName): SectionDeclaration {
  const { is, about, entry } = SECTIONS[section];
  const described = (entry as yup.Schema).describe();
  return { section, is, one: ENTRY_NAMES[section], about, entry: declarationOf('', described) };
}

/** All sections of the site file, in the order in which they are documented. */
export const sectionDeclarations = (): SectionDeclaration[] =>
  (Object.keys(SECTIONS) as SectionName[]).map(sectionDeclaration);

function declarationOf(name: string, described: yup.SchemaFieldDescription): FieldDeclaration {
  const meta: FieldMeta = ('meta' in described ? described.meta : undefined) ?? {};
  const inner = innerOf(described);
  return {
    name,
    title: meta.title ?? name,
    help: meta.help ?? null,
    kind: kindOf(described, meta),
    isList: meta.isList ?? 'never',
    isRequired: meta.isRequired ?? false,
    isSeldom: meta.isSeldom ?? false,
    isNullable: meta.isNullable ?? false,
    choices: meta.choices ?? [],
    codes: meta.codes ?? [],
    usual: meta.usual ?? null,
    fields: Object.entries(inner).map(([field, one]) => declarationOf(field, one)),
    one: meta.one ?? null,
    columns: meta.columns ?? null,
  };
}

function innerOf(
  described: yup.SchemaFieldDescription,
): Readonly<Record<string, yup.SchemaFieldDescription>> {
  if ('fields' in described) return described.fields;
  if (!('innerType' in described) || Array.isArray(described.innerType)) return {};
  const { innerType } = described;
  return 'fields' in innerType ? innerType.fields : {};
}

function kindOf(described: yup.SchemaFieldDescription, meta: FieldMeta): FieldDeclaration['kind'] {
  if ('fields' in described) return 'fields';
  if ('innerType' in described) return 'rows';
  return meta.type ?? (meta.choices ? 'choice' : (meta.kind ?? 'text'));
}
