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

type Fields = Record<string, unknown>;
interface Schema {
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly items?: Schema;
  readonly additionalProperties?: Schema | false;
  readonly anyOf?: readonly Schema[];
}

/** A file in which one field at a time gets another value. */
const BASE: Fields = parse(`
kleidon: 1
site: { name: T, address: https://t.example, sign-in: /in }
roles: { a: A }
groups: { g: G }
products: { p: { title: P, buy-at: /shop } }
audiences: { crew: role a }
pages: { /: { title: Home }, /crew: { title: Crew }, /shop: Shop, /in: In, /people/:name: { example: /people/robin } }
gates: { x: { under: /crew, admit: role a, otherwise: [{ do: refuse }] } }
redirects: [{ from: /old/:x, to: /crew }]
rewrites: [{ from: /r/:x, serve: '/crew' }]
not-found: [{ under: /, say: Gone }]
landings: [{ after: sign-in, go: / }]
parts: { y: { admit: role a } }
menus: { main: { links: [/] } }
guarantees: [{ who: guest, never: reach, under: /crew }]
visits: [{ address: /, visitor: { roles: [a] }, outcome: reach }]
accepted: [{ finding: redirect-chain, note: n }]
visitors: { v: { roles: [a], bought: [{ product: p }] } }
`) as Fields;

/** Every field of the schema, with the way to it in the file above. */
function ways(schema: Schema, value: unknown, way: readonly (string | number)[]): unknown[][] {
  const whole = schema.anyOf?.find(({ properties }) => properties) ?? schema;
  if (Array.isArray(value)) {
    const items = whole.items ?? schema.anyOf?.find(({ items }) => items)?.items;
    return items && value.length > 0 ? ways(items, value[0], [...way, 0]) : [];
  }
  if (whole.properties)
    return Object.entries(whole.properties).flatMap(([name, inner]) => [
      [...way, name],
      ...ways(inner, (value as Fields | undefined)?.[name], [...way, name]),
    ]);
  const [first] = Object.keys((value as Fields | undefined) ?? {});
  if (!whole.additionalProperties || first === undefined || typeof value !== 'object') return [];
  const way1 = [...way, first];
  return [way1, ...ways(whole.additionalProperties, (value as Fields)[first], way1)];
}

/** The values that the documents show, and those of each type. */
function documented(): unknown[] {
  const text = readFileSync(new URL('../../../docs/site-file.md', import.meta.url), 'utf8');
  const values = new Map<string, unknown>();
  const take = (value: unknown): void => {
    values.set(JSON.stringify(value), value);
    if (Array.isArray(value)) value.forEach(take);
    else if (typeof value === 'object' && value !== null) Object.values(value).forEach(take);
  };
  const shown = [
    ...[...text.matchAll(/`([^`\n]+)`/g)].map(([, span]) => span!),
    ...[...text.matchAll(/```yaml\n(.*?)```/gs)].map(([, block]) => block!),
  ];
  for (const one of shown) {
    try {
      take(parse(one, { logLevel: 'silent' }));
    } catch {
      // A piece of a condition or of a pattern is a text.
      take(one);
    }
  }
  [
    null,
    true,
    'true',
    0,
    1,
    -3,
    1.5,
    '7',
    301,
    '',
    ' ',
    [],
    [1],
    [null],
    {},
    { a: 1 },
    ['a', 'a'],
  ].forEach(take);
  return [...values.values()];
}

/** Errors about the form of a value. Others are about what it stands for, or what must stand beside it. */
const OF_FORM = ['wrong-type', 'unknown-field'];

/** All pairs of a field and a value take a minute and a half; here one of so many is tried. */
const ONE_OF = Number(process.env['KLEIDON_ONE_OF'] ?? 40);

describe('the JSON Schema of site files', () => {
  test('agrees with reading about every documented value of every field', () => {
    const fields = ways(siteFiles.siteFileSchema(), BASE, []);
    const values = documented();
    expect(fields.length).toBeGreaterThan(100);
    expect(values.length).toBeGreaterThan(250);
    const random = randomBy(Number(process.env['KLEIDON_SEED'] ?? 5));
    let taken = 0;
    const differing: string[] = [];
    for (const way of fields) {
      // What others name stays; the rest would be read in vain.
      const needed = ['kleidon', 'site', 'roles', 'groups', 'products', String(way[0])];
      const part = Object.fromEntries(
        Object.entries(BASE).filter(([name]) => needed.includes(name)),
      );
      for (const value of values) {
        if (random() * ONE_OF > 1) continue;
        const file = structuredClone(part);
        let at = file;
        for (const step of way.slice(0, -1)) at = (at[step as string] ??= {}) as Fields;
        at[way.at(-1) as string] = value;
        const read = siteFiles.readSite(JSON.stringify(file), 'x');
        const codes = read.ok ? [] : read.errors.map(({ code }) => code);
        if (validate(file) ? codes.some((code) => OF_FORM.includes(code)) : read.ok)
          differing.push(`${way.join('.')}: ${JSON.stringify(value)} ${codes.join()}`);
        if (read.ok) taken++;
      }
    }
    expect(differing).toEqual([]);
    expect(taken * ONE_OF).toBeGreaterThan(2000);
  });

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
