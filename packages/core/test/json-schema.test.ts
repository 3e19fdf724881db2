import { readFileSync } from 'node:fs';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { parse } from 'yaml';
import { siteFileSchema } from '../src/index.ts';
import { placesOf } from '../src/site/fields/places.ts';
import { asText } from './reference/as-core.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { errorsOf, sampleText } from './support.ts';

const validate = new Ajv2020({ allErrors: true }).compile(siteFileSchema());
const HEAD = 'kleidon: 1\nsite: { name: T, address: https://t.example }\n';
const problems = (body: string): string[] => {
  validate(parse(HEAD + body));
  return (validate.errors ?? []).map(({ instancePath }) => instancePath);
};

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

  test('every field of the documents is declared, and every declared field is in the documents', () => {
    const docs = readFileSync(new URL('../../../docs/site-file.md', import.meta.url), 'utf8');
    const { properties } = siteFileSchema() as {
      properties: Record<string, { additionalProperties?: object; items?: object }>;
    };
    const names = JSON.stringify(properties).match(/(?<="properties":\{|\},)"[a-z-]+"(?=:)/g)!;
    for (const name of new Set(names.map((one) => one.slice(1, -1))))
      expect([name, docs.includes(name)]).toEqual([name, true]);
  });

  test('the kinds of fields tell where renames have to look', () => {
    expect(placesOf('condition').map((place) => place.join('.'))).toContain(
      'gates.*.otherwise.*.who',
    );
    expect(placesOf('role')).toEqual([['visitors', '*', 'roles']]);
  });
});
