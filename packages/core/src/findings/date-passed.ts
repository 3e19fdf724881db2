import type { Period, Redirect } from '../model/site.ts';
import { printDay } from '../time/instant.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import type { SourceLocation } from '../model/source-location.ts';

interface Dated extends Period {
  readonly about: string;
  /** Null for one that stands in a list of its own. */
  readonly path: string | null;
  readonly place: SourceLocation;
}

/** Something that was meant for a while has ended, and is still in the site file. */
export function datePassed({ prepared: { site }, at }: InspectionContext): FindingDraft[] {
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
      about: `rewrite ${rewrite.source}`,
      path: pointer('rewrites', i),
    })),
  ];
  return dated.flatMap(({ about, path, place, validUntil }): FindingDraft[] =>
    !isPast({ validUntil }, at)
      ? []
      : [
          {
            code: 'date-passed',
            severity: about.startsWith('gate') ? 'high' : 'low',
            about,
            place,
            message: `The ${about} ended on ${printDay(validUntil!, site.timeZone)}${about.startsWith('gate') ? ': what it closed is open, or left to the gate above' : ''}.`,
            remedy: 'Remove it, or give it a later date.',
            fix: path === null ? null : [{ op: 'remove', path }],
          },
        ],
  );
}

const isPast = ({ validUntil }: Pick<Period, 'validUntil'>, at: number): boolean =>
  validUntil !== null && at >= validUntil;

const redirectAt = (redirect: Redirect, position: number): Dated => ({
  ...redirect,
  about: `redirect ${redirect.source}`,
  path: redirect.place.file === undefined ? pointer('redirects', position) : null,
});
