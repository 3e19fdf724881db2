import { decisions, type model, siteFiles } from '../../src/index.ts';
import { NOW } from '../support.ts';
import { asText, asVisitor } from './as-core.ts';
import type { File, Person } from './model.ts';
import { chance, randomBy } from './random-site.ts';

/** As many sites as are tried; more are wanted outside of the suite. */
export const SITES = Number(process.env['KLEIDON_SITES'] ?? 40);
export const SEED = Number(process.env['KLEIDON_SEED'] ?? 1);

/** Every person that conditions with these names can tell from others. */
const peopleWith = (
  ids: string[],
  roles: string[],
  products: string[],
  tags: string[],
): Person[] => [
  { guest: true, roles: [], bought: [], tags: [] },
  ...ids.flatMap((id) =>
    subsetsOf(roles).flatMap((held) =>
      subsetsOf(products).flatMap((bought) =>
        subsetsOf(tags).map((own) => ({ guest: false, id, roles: held, bought, tags: own })),
      ),
    ),
  ),
];

/** Every visitor that the conditions of random sites can tell from others, but for their ids. */
export const EVERYONE: readonly model.Visitor[] = peopleWith(
  ['sam'],
  ['r', 's'],
  ['m', 'n'],
  ['t', 'u', 'v'],
).map(asVisitor);

/**
 * Every person that the conditions of some files can tell from others.
 *
 * @param ids those of visitors who may have an address of their own
 */
export function peopleIn(files: readonly File[], ids = ['a', 'b']): readonly Person[] {
  const text = JSON.stringify(files);
  const named = (names: string[], before: string): string[] =>
    names.filter((name) => text.includes(`"is":"${before}":"${name}"`));
  const tags = named(['t', 'u'], 'tag","value');
  return peopleWith(
    text.includes('"is":"self"') ? ['sam', ...ids] : ['sam'],
    named(['r', 's'], 'role","name'),
    named(['m', 'n'], 'bought","product'),
    // Whoever has another tag is not like someone who has none.
    tags.length > 0 ? [...tags, 'v'] : [],
  );
}

function subsetsOf(names: readonly string[]): string[][] {
  return Array.from({ length: 2 ** names.length }, (_, bits) =>
    names.filter((_name, i) => (bits & (1 << i)) !== 0),
  );
}

/** Sites by chance that can be read, each with its text. */
export function* randomSites(
  by = chance(randomBy(SEED)),
  most = SITES,
): Generator<[decisions.PreparedSite, string, File]> {
  for (let sites = 0; sites < most;) {
    const file = by.site();
    const text = asText(file);
    const read = siteFiles.readSite(text, 'random.yaml');
    if (!read.ok) continue;
    sites++;
    yield [decisions.prepareSite(read.site), text, file];
  }
}

/** How a visit ends. */
export const endOf = (
  prepared: decisions.PreparedSite,
  address: string,
  visitor: model.Visitor,
  method = 'GET',
): decisions.Visit => decisions.visit(prepared, { method, address }, visitor, NOW);
