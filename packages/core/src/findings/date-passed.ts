import { phaseAt } from '../time/period.ts';
import type { Period, Redirect } from '../model/site.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingValues } from '../model/finding.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import type { SourceLocation } from '../model/source-location.ts';

interface Dated extends Period {
  readonly kind: FindingValues['date-passed']['kind'];
  readonly name: string;
  /** Null for one that stands in a list of its own. */
  readonly path: string | null;
  readonly place: SourceLocation;
}

/** Something that was meant for a while has ended, and is still in the site file. */
export function datePassed({ prepared: { site }, at }: InspectionContext): FindingDraft[] {
  const dated: Dated[] = [
    ...site.pages.map((page) => ({
      ...page,
      kind: 'page' as const,
      name: page.address,
      path: pointer('pages', page.address),
    })),
    ...site.gates.map((gate) => ({
      ...gate,
      kind: 'gate' as const,
      path: pointer('gates', gate.name),
    })),
    ...site.redirects.flatMap((redirect, i) =>
      isPast(redirect, at) ? [redirectAt(redirect, i)] : [],
    ),
    ...site.rewrites.map((rewrite, i) => ({
      ...rewrite,
      kind: 'rewrite' as const,
      name: rewrite.source,
      path: pointer('rewrites', i),
    })),
  ];
  return dated.flatMap(({ kind, name, path, place, validUntil }): FindingDraft[] =>
    !isPast({ validUntil }, at)
      ? []
      : [
          {
            code: 'date-passed',
            severity: kind === 'gate' ? 'high' : 'low',
            subject: { kind, name },
            place,
            values: { kind, name, validUntil: validUntil! },
            fix: path === null ? null : [{ op: 'remove', path }],
          },
        ],
  );
}

const isPast = ({ validUntil }: Pick<Period, 'validUntil'>, at: number): boolean =>
  phaseAt(null, validUntil, at) === 'after';

const redirectAt = (redirect: Redirect, position: number): Dated => ({
  ...redirect,
  kind: 'redirect',
  name: redirect.source,
  path: redirect.place.file === undefined ? pointer('redirects', position) : null,
});
