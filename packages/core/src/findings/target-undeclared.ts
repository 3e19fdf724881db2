import { titleFromPath } from '../address/title.ts';
import { siteAddress } from '../decision/site-address.ts';
import type { FindingValues } from '../model/finding.ts';
import { literalOf } from '../model/pattern.ts';
import type { SourceLocation } from '../model/source-location.ts';
import { pointer } from '../site/yaml/pointer.ts';
import { nearest } from '../text/nearest.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** Each is compared with all pages. */
const MOST_COMPARED = 200;

interface Named {
  readonly by: FindingValues['target-undeclared']['by'];
  readonly name: string;
  readonly address: string | null | undefined;
  readonly place: SourceLocation;
}

/** A rule names an address that the site file does not declare, and the website has what is not declared: it may be mistyped. */
export function targetUndeclared({ prepared }: InspectionContext): FindingDraft[] {
  const { pages, undeclared } = prepared.site;
  if (undeclared !== 'website') return [];
  const isDeclared = (address: string): boolean => {
    const read = siteAddress(prepared, address);
    if (!read.ok || !read.address.isHome) return true;
    const { page, redirects, rewrites } = read.address;
    return page !== null || redirects.length > 0 || rewrites.length > 0;
  };
  let left = MOST_COMPARED;
  return named(prepared.site).flatMap(({ by, name, address, place }): FindingDraft[] => {
    const path = address?.startsWith('/') ? address.replace(/[?#].*$/s, '') : null;
    if (path === null || isDeclared(path)) return [];
    const meant =
      left-- > 0
        ? nearest(
            path,
            pages.map((page) => page.address),
          )
        : null;
    return [
      {
        code: 'target-undeclared',
        severity: meant === null ? 'low' : 'medium',
        subject: { kind: by, name },
        place,
        values: { by, name, address: path, meant },
        // Adding a mistyped address would hide the mistake.
        fix:
          meant === null
            ? [{ op: 'add', path: pointer('pages', path), value: titleFromPath(path) }]
            : null,
      },
    ];
  });
}

/** The addresses of the site that its rules lead to. */
function named({
  signIn,
  gates,
  notFound,
  products,
  redirects,
  rewrites,
  menus,
  landings,
  place: top,
}: InspectionContext['prepared']['site']): Named[] {
  return [
    { by: 'site', name: 'sign-in', address: signIn, place: top },
    ...gates.flatMap(({ name, otherwise, place }) =>
      otherwise.map((step): Named => {
        const address = step.do === 'refuse' ? step.show : step.do === 'send' ? step.to : null;
        return { by: 'gate', name, address, place };
      }),
    ),
    ...notFound.map(({ name, show, place }): Named => ({
      by: 'not-found',
      name,
      address: show,
      place,
    })),
    ...Object.entries(products).flatMap(([name, { buyAt, renewAt, place }]) =>
      [buyAt, renewAt].map((address): Named => ({ by: 'product', name, address, place })),
    ),
    ...redirects.map(({ source, to, place }): Named => ({
      by: 'redirect',
      name: source,
      address: to.origin === null ? literalOf(to.path) : null,
      place,
    })),
    ...rewrites.map(({ source, serve, place }): Named => ({
      by: 'rewrite',
      name: source,
      address: serve.origin === null ? literalOf(serve.path) : null,
      place,
    })),
    ...menus.flatMap(({ name, links, place }) =>
      links.map((address): Named => ({ by: 'menu', name, address, place })),
    ),
    ...landings.map(({ go, place }): Named => ({ by: 'landing', name: go, address: go, place })),
  ];
}
