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
  // Few have ended, and there may be many.
  const ended = <T extends Pick<Period, 'validUntil'>>(all: readonly T[]): T[] =>
    all.filter(({ validUntil }) => isPast(validUntil, at));
  const dated: Dated[] = [
    ...ended(site.pages).map((page) => ({
      ...page,
      kind: 'page' as const,
      name: page.address,
      path: pointer('pages', page.address),
    })),
    ...ended(site.gates).map((gate) => ({
      ...gate,
      kind: 'gate' as const,
      path: pointer('gates', gate.name),
    })),
    ...site.redirects.flatMap((redirect, i) =>
      isPast(redirect.validUntil, at) ? [redirectAt(redirect, i)] : [],
    ),
    ...site.rewrites.flatMap((rewrite, i): Dated[] =>
      isPast(rewrite.validUntil, at)
        ? [{ ...rewrite, kind: 'rewrite', name: rewrite.source, path: pointer('rewrites', i) }]
        : [],
    ),
  ];
  return dated.map(({ kind, name, path, place, validUntil }) => ({
    code: 'date-passed',
    severity: kind === 'gate' ? 'high' : 'low',
    subject: { kind, name },
    place,
    values: { kind, name, validUntil: validUntil! },
    fix: path === null ? null : [{ op: 'remove', path }],
  }));
}

const isPast = (validUntil: number | null, at: number): boolean =>
  phaseAt(null, validUntil, at) === 'after';

const redirectAt = (redirect: Redirect, position: number): Dated => ({
  ...redirect,
  kind: 'redirect',
  name: redirect.source,
  path: redirect.place.file === undefined ? pointer('redirects', position) : null,
});
