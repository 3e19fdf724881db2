import type { Period, Redirect } from '../model/site.ts';
import { printDay } from '../time/instant.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { Found, Inspected } from './finding-draft.ts';
import type { Place } from '../model/source-location.ts';

interface Dated extends Period {
  readonly about: string;
  /** Null for one that stands in a list of its own. */
  readonly path: string | null;
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
    ...site.redirects.flatMap((redirect, i) =>
      isPast(redirect, at) ? [redirectAt(redirect, i)] : [],
    ),
    ...site.rewrites.map((rewrite, i) => ({
      ...rewrite,
      about: `rewrite ${rewrite.name}`,
      path: pointer('rewrites', i),
    })),
  ];
  return dated.flatMap(({ about, path, place, until }): Found[] =>
    !isPast({ until }, at)
      ? []
      : [
          {
            code: 'date-passed',
            severity: about.startsWith('gate') ? 'high' : 'low',
            about,
            place,
            message: `The ${about} ended on ${printDay(until!, site.timeZone)}${about.startsWith('gate') ? ': what it closed is open, or left to the gate above' : ''}.`,
            remedy: 'Remove it, or give it a later date.',
            fix: path === null ? null : [{ op: 'remove', path }],
          },
        ],
  );
}

const isPast = ({ until }: Pick<Period, 'until'>, at: number): boolean =>
  until !== null && at >= until;

const redirectAt = (redirect: Redirect, position: number): Dated => ({
  ...redirect,
  about: `redirect ${redirect.name}`,
  path: redirect.place.file === undefined ? pointer('redirects', position) : null,
});
