import { titleFromPath } from '../address/title.ts';
import { pageAt } from '../decision/page-at.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingValues } from '../model/finding.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import type { SourceLocation } from '../model/source-location.ts';

type Named = FindingValues['shows-missing'] & { readonly place: SourceLocation };

/** A refusal, a not-found rule or a product names a page of the site that is not there. */
export function showsMissing({ prepared }: InspectionContext): FindingDraft[] {
  const { gates, notFound, products, undeclared } = prepared.site;
  // Whether the website has it is not for the site file to say.
  if (undeclared === 'website') return [];
  const named: Named[] = [
    ...gates.flatMap(({ name, otherwise, place: at }) =>
      otherwise.flatMap((step): Named[] =>
        step.do === 'refuse' && step.show !== null
          ? [{ by: 'gate', name, address: step.show, place: at }]
          : [],
      ),
    ),
    ...notFound.flatMap(({ name, show, place: at }): Named[] =>
      show === null ? [] : [{ by: 'not-found', name, address: show, place: at }],
    ),
    ...Object.entries(products).flatMap(([name, { buyAt, renewAt, place: at }]) =>
      [buyAt, renewAt].flatMap((address): Named[] =>
        address?.startsWith('/') ? [{ by: 'product', name, address, place: at }] : [],
      ),
    ),
  ];
  return named
    .filter(({ address }) => pageAt(prepared, address) === null)
    .map(({ by, name, address, place: at }) => ({
      code: 'shows-missing' as const,
      severity: 'medium' as const,
      subject: { kind: by, name },
      place: at,
      values: { by, name, address },
      fix: [{ op: 'add' as const, path: pointer('pages', address), value: titleFromPath(address) }],
    }));
}
