import type { Period, Place } from '../site/site.ts';
import { printDay } from '../time/instant.ts';
import { pointer } from '../site/pointer.ts';
import type { Found, Inspected } from './found.ts';

interface Dated extends Period {
  readonly about: string;
  readonly path: string;
  readonly place: Place;
}

/** Something that was meant for a while has ended, and is still in the site file. */
export function datePassed({ prepared: { site }, at }: Inspected): Found[] {
  const dated: Dated[] = [
    ...site.pages.map((page) => ({
      ...page,
      about: `page ${page.address}`,
      path: pointer('pages', page.address),
    })),
    ...site.gates.map((gate) => ({
      ...gate,
      about: `gate ${gate.name}`,
      path: pointer('gates', gate.name),
    })),
    ...site.redirects.map((redirect, i) => ({
      ...redirect,
      about: `redirect ${redirect.name}`,
      path: pointer('redirects', i),
    })),
  ];
  return dated.flatMap(({ about, path, place, until }): Found[] =>
    until === null || at < until
      ? []
      : [
          {
            code: 'date-passed',
            severity: about.startsWith('gate') ? 'high' : 'low',
            about,
            place,
            message: `The ${about} ended on ${printDay(until, site.timeZone)}${about.startsWith('gate') ? ': what it closed is open, or left to the gate above' : ''}.`,
            remedy: 'Remove it, or give it a later date.',
            fix: [{ op: 'remove', path }],
          },
        ],
  );
}
