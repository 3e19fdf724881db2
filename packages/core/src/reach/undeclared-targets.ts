import { siteAddress } from '../decision/site-address.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { FindingValues } from '../model/finding.ts';
import { literalOf } from '../model/pattern.ts';
import type { Site } from '../model/site.ts';
import type { SourceLocation } from '../model/source-location.ts';

/** The target of a rule, and the rule. */
export interface RuleTarget {
  readonly by: Exclude<FindingValues['target-undeclared']['by'], 'scope'>;
  readonly name: string;
  /** A path without query. */
  readonly address: string;
  readonly place: SourceLocation;
}

/** Returns the targets of rules that no page, redirect or rewrite of the site file declares. */
export function undeclaredTargets(prepared: PreparedSite): RuleTarget[] {
  const isDeclared = (address: string): boolean => {
    const read = siteAddress(prepared, address);
    if (!read.ok || !read.address.isHome) return true;
    const { page, redirects, rewrites } = read.address;
    // The redirect of a canonical rewrite declares no page at the address that it serves.
    const isRedirected = redirects.some(({ rule }) => rule.inverseOf === null);
    return page !== null || isRedirected || rewrites.length > 0;
  };
  return named(prepared.site).flatMap(({ address, ...rule }) => {
    const path = address?.startsWith('/') ? address.replace(/[?#].*$/s, '') : null;
    return path === null || isDeclared(path) ? [] : [{ ...rule, address: path }];
  });
}

type Named = Omit<RuleTarget, 'address'> & { readonly address: string | null | undefined };

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
}: Site): Named[] {
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
