import { lookUp } from '../pattern/index-of-patterns.ts';
import { pathOf } from '../reach/who-reaches.ts';
import type { Found, Inspected } from './found.ts';

/** A gate under which the site file has no page: its address may be mistyped. */
export function gateCoversNothing({ prepared }: Inspected): Found[] {
  const { pages, gates } = prepared.site;
  const covering = new Set(
    pages.flatMap((page) =>
      (['view', 'change'] as const).flatMap((right) =>
        lookUp(prepared.gates[right], pathOf(prepared, page)).map(({ rule }) => rule.name),
      ),
    ),
  );
  return gates
    .filter(({ name }) => !covering.has(name))
    .map(({ name, extents, place }) => ({
      code: 'gate-covers-nothing',
      severity: 'medium' as const,
      about: `gate ${name}`,
      place,
      message: `The gate ${name} stands ${extents.map(({ pattern, under }) => `${under ? 'under' : 'at'} ${pattern.text}`).join(', ')}, where the site file has no page.`,
      remedy: 'Mend its address, add the pages, or remove the gate.',
    }));
}
