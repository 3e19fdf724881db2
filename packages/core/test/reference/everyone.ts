import { decisions, type model, siteFiles } from '../../src/index.ts';
import { NOW } from '../support.ts';
import { asText, asVisitor } from './as-core.ts';
import type { File, Person } from './model.ts';
import { chance, randomBy } from './random-site.ts';

/** As many sites as are tried; more are wanted outside of the suite. */
export const SITES = Number(process.env['KLEIDON_SITES'] ?? 40);
export const SEED = Number(process.env['KLEIDON_SEED'] ?? 1);

/** Every visitor that the conditions of random sites can tell from others. */
export const PEOPLE: readonly Person[] = [
  { guest: true, roles: [], bought: [], tags: [] },
  ...subsetsOf(['r', 's']).flatMap((roles) =>
    subsetsOf(['m', 'n']).flatMap((bought) =>
      subsetsOf(['t', 'u', 'v']).map((tags) => ({ guest: false, roles, bought, tags })),
    ),
  ),
];
export const EVERYONE: readonly model.Visitor[] = PEOPLE.map(asVisitor);

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
