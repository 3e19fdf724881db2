import { pageAt } from '../reach/who-reaches.ts';
import { pointer } from '../site/yaml/pointer.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import type { SourceLocation } from '../model/source-location.ts';

/** A refusal, a not-found rule or a product names a page of the site that is not there. */
export function showsMissing({ prepared }: InspectionContext): FindingDraft[] {
  const { gates, notFound, products, place, undeclared } = prepared.site;
  // Whether the website has it is not for the site file to say.
  if (undeclared === 'website') return [];
  const named: { about: string; address: string; place: SourceLocation; what: string }[] = [
    ...gates.flatMap(({ name, otherwise, place: at }) =>
      otherwise.flatMap((step) =>
        step.do === 'refuse' && step.show !== null
          ? [
              {
                about: `gate ${name}`,
                address: step.show,
                place: at,
                what: `The gate ${name} shows`,
              },
            ]
          : [],
      ),
    ),
    ...notFound.flatMap(({ name, show, place: at }) =>
      show === null
        ? []
        : [
            {
              about: `not-found ${name}`,
              address: show,
              place: at,
              what: `The not-found rule under ${name} shows`,
            },
          ],
    ),
    ...Object.entries(products).flatMap(([name, { buyAt }]) =>
      buyAt?.startsWith('/')
        ? [
            {
              about: `product ${name}`,
              address: buyAt,
              place,
              what: `The product ${name} is sold at`,
            },
          ]
        : [],
    ),
  ];
  return named
    .filter(({ address }) => pageAt(prepared, address) === null)
    .map(({ about, address, place: at, what }) => ({
      code: 'shows-missing',
      severity: 'medium' as const,
      about,
      place: at,
      message: `${what} ${address}, and the site file has no such page.`,
      remedy: `Add ${address} to the pages, or name another one.`,
      fix: [{ op: 'add' as const, path: pointer('pages', address), value: titleFrom(address) }],
    }));
}

function titleFrom(address: string): string {
  const words = (address.split('/').at(-1) ?? '').replace(/[-_]+/g, ' ').trim();
  return words === '' ? 'Home' : words.charAt(0).toUpperCase() + words.slice(1);
}
