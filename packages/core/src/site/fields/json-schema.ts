import type * as yup from 'yup';
import { SECTIONS, siteSchema } from './schema.ts';
import type { FieldMeta, TextKind } from './schema-kinds.ts';

type JsonSchema = Readonly<Record<string, unknown>>;

/** The forms of texts that an editor can check by itself. */
const PATTERNS: Partial<Readonly<Record<TextKind, string>>> = {
  duration: '^[1-9]\\d{0,6}\\s*[smh]$',
  moment: '^\\d{4}-\\d{2}-\\d{2}',
};

/**
 * The JSON Schema (2020-12) of a site file, from the declarations of its fields: for editors, which complete
 * and check with it. What depends on other parts of the file, such as the names of roles, it leaves to `readSite`.
 */
export function siteFileSchema(): JsonSchema {
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'A site file of Kleidon',
    type: 'object',
    required: ['kleidon', 'site'],
    additionalProperties: false,
    properties: {
      kleidon: { const: 1, description: 'The version of the format.' },
      site: schemaOf(siteSchema.describe()),
      ...Object.fromEntries(
        Object.entries(SECTIONS).map(([section, { is, entry }]) => {
          const items = entrySchema(section, (entry as yup.Schema).describe());
          return [
            section,
            is === 'map'
              ? { type: ['object', 'null'], additionalProperties: items }
              : { type: ['array', 'null'], items },
          ];
        }),
      ),
    },
  };
}

/** Entries whose title is all that is said of them are written as a text. */
function entrySchema(section: string, described: yup.SchemaFieldDescription): JsonSchema {
  const whole = schemaOf(described);
  return section === 'pages' || section === 'products'
    ? { anyOf: [{ type: 'string' }, whole] }
    : whole;
}

function schemaOf(described: yup.SchemaFieldDescription): JsonSchema {
  if ('fields' in described) {
    const fields = Object.entries(described.fields);
    return {
      type: 'object',
      additionalProperties: false,
      properties: Object.fromEntries(fields.map(([name, field]) => [name, schemaOf(field)])),
      required: fields.filter(([, field]) => metaOf(field).isRequired).map(([name]) => name),
    };
  }
  if ('innerType' in described && !Array.isArray(described.innerType))
    return { type: 'array', items: schemaOf(described.innerType) };
  const { choices, kind = 'text', isList, isNullable, type } = metaOf(described);
  if (choices) return { enum: choices };
  if (type) return { type: type === 'map' ? 'object' : type };
  const pattern = PATTERNS[kind];
  const one = {
    type: isNullable ? ['string', 'null'] : 'string',
    ...(pattern === undefined ? {} : { pattern }),
  };
  if (isList === undefined) return one;
  const list = { type: 'array', items: one };
  return isList === 'always' ? list : { anyOf: [one, list] };
}

const metaOf = (described: yup.SchemaFieldDescription): FieldMeta =>
  ('meta' in described ? described.meta : undefined) ?? {};
