import { sectionDeclarations, siteDeclaration, type FieldDeclaration } from './declarations.ts';

type JsonSchema = Readonly<Record<string, unknown>>;

const [TEXT, NUMBER, BOOLEAN] = ['string', 'number', 'boolean'].map((type) => ({ type }));
/** What an attribute of a visitor may be. */
const ATTRIBUTE: JsonSchema = {
  anyOf: [TEXT, NUMBER, BOOLEAN, { type: 'array', items: { anyOf: [TEXT, NUMBER] } }],
};

/** The forms of texts that an editor can check by itself. */
const PATTERNS: Partial<Readonly<Record<FieldDeclaration['kind'], string>>> = {
  duration: '^[1-9]\\d{0,6}\\s*[smhd]$',
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
      site: { description: 'The site itself.', ...schemaOf(siteDeclaration()) },
      ...Object.fromEntries(
        sectionDeclarations().map(({ section, is, about, entry }) => {
          const items = entrySchema(section, entry);
          return [
            section,
            is === 'map'
              ? { description: about, type: ['object', 'null'], additionalProperties: items }
              : { description: about, type: ['array', 'null'], items },
          ];
        }),
      ),
    },
  };
}

/** A page of which only the title is said, or nothing, is written as a text, or as nothing. */
function entrySchema(section: string, entry: FieldDeclaration): JsonSchema {
  const whole = schemaOf(entry);
  return section === 'pages' ? { anyOf: [{ type: ['string', 'null'] }, whole] } : whole;
}

function fieldSchema(field: FieldDeclaration): JsonSchema {
  const { title, help, usual } = field;
  return {
    description: help === null ? title : `${title}: ${help}`,
    ...schemaOf(field),
    ...(usual === null ? {} : { default: usual }),
  };
}

function schemaOf(field: FieldDeclaration): JsonSchema {
  const { kind, isList, isNullable } = field;
  const choices = [...field.choices, ...field.codes];
  if (kind === 'fields') return fieldsSchema(field);
  if (kind === 'rows') return { type: 'array', items: fieldsSchema(field) };
  if (choices.length > 0) {
    const one = { enum: choices };
    return isList === 'never' ? one : { anyOf: [one, { type: 'array', items: one, minItems: 1 }] };
  }
  if (kind === 'integer') return { type: 'integer' };
  if (kind === 'map') return { type: 'object', additionalProperties: ATTRIBUTE };
  const pattern = PATTERNS[kind];
  const one = {
    type: isNullable ? ['string', 'null'] : 'string',
    ...(pattern === undefined ? {} : { pattern }),
  };
  if (isList === 'never') return one;
  const list = { type: 'array', items: one };
  return isList === 'always' ? list : { anyOf: [one, list] };
}

const fieldsSchema = ({ fields }: FieldDeclaration): JsonSchema => ({
  type: 'object',
  additionalProperties: false,
  properties: Object.fromEntries(fields.map((field) => [field.name, fieldSchema(field)])),
  required: fields.filter(({ isRequired }) => isRequired).map(({ name }) => name),
});
