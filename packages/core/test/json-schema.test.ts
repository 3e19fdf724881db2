import { readFileSync } from 'node:fs';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { parse } from 'yaml';
import { siteFiles } from '../src/index.ts';
import { placesOf } from '../src/site/fields/places.ts';
import { asText } from './reference/as-core.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { errorsOf, sampleText } from './support.ts';

const validate = new Ajv2020({ allErrors: true }).compile(siteFiles.siteFileSchema());
const HEAD = 'kleidon: 1\nsite: { name: T, address: https://t.example }\n';
const problems = (body: string): string[] => {
  validate(parse(HEAD + body));
  return (validate.errors ?? []).map(({ instancePath }) => instancePath);
};

/** The names of all fields that a schema knows. */
function fieldsIn(schema: unknown, found = new Set<string>()): Set<string> {
  if (typeof schema !== 'object' || schema === null) return found;
  for (const [name, inner] of Object.entries(schema)) {
    if (name === 'properties') for (const field of Object.keys(inner as object)) found.add(field);
    fieldsIn(inner, found);
  }
  return found;
}

describe('the JSON Schema of site files', () => {
  test('accepts the sample site, and what is read without errors', () => {
    expect(validate(parse(sampleText()))).toBe(true);
    const by = chance(randomBy(3));
    for (let i = 0; i < 200; i++) {
      const text = asText(by.site());
      expect([text, validate(parse(text)), validate.errors]).toEqual([text, true, null]);
    }
  });

  test.each([
    ['gates: { g: { undr: /x, admit: anyone } }', '/gates/g'],
    ['gates: { g: { under: /x } }', '/gates/g'],
    ['gates: { g: { under: /x, admit: anyone, right: look } }', '/gates/g/right'],
    ['redirects: [{ from: /a }]', '/redirects/0'],
    ['redirects: [{ from: /a, to: /b, wait: soon }]', '/redirects/0/wait'],
    ['pages: { /x: { title: X, from: soon } }', '/pages/~1x/from'],
    ['visitors: { v: { roles: a } }', '/visitors/v/roles'],
    ['gatez: {}', ''],
  ])('refuses %s, as reading does', (body, at) => {
    expect(problems(body)).toContain(at);
    expect(errorsOf(body)).not.toEqual([]);
  });

  test('has fields of every section, each of which the documents explain', () => {
    const docs = readFileSync(new URL('../../../docs/site-file.md', import.meta.url), 'utf8');
    const names = [...fieldsIn(siteFiles.siteFileSchema())];
    expect(names.length).toBeGreaterThan(60);
    const isExplained = (name: string): boolean =>
      new RegExp(`(?<![\\w-])${name}(?:\`|:[ \\n])|^## ${name}$`, 'm').test(docs);
    expect(names.filter((name) => !isExplained(name))).toEqual([]);
  });

  test('the kinds of fields tell where renames have to look', () => {
    expect(placesOf('condition').map((place) => place.join('.'))).toContain(
      'gates.*.otherwise.*.who',
    );
    expect(placesOf('role')).toEqual([
      ['visits', '*', 'visitor', 'roles'],
      ['visitors', '*', 'roles'],
    ]);
  });
});
