import { pathOnSite } from '../address/address.ts';
import { normalizePath } from '../address/tidy.ts';
import { literalOf, type Pattern } from '../model/pattern.ts';
import { isRecord } from '../model/plain-value.ts';
import type { Scope, Site } from '../model/site.ts';
import type { SourceLocation } from '../model/source-location.ts';
import { literalPattern, parsePattern } from '../pattern/parse.ts';
import type { ChangedSection, Entry } from './entry.ts';

/** The sections that settle nothing about a request. */
const SILENT = ['roles', 'groups', 'guarantees', 'visits', 'accepted', 'visitors'] as const;

/** The settings of a site that can matter to any request. */
const SETTINGS = [
  ...['protocol', 'host', 'also', 'ungated', 'undeclared', 'change', 'signIn', 'fullAccess'],
  ...['fullAccessRight', 'timeZone', 'tidy', 'homes', 'servers'],
] as const;

/** Those of them that settle who gets in, and not where an address leads. */
export const ACCESS: readonly string[] = [
  ...['ungated', 'undeclared', 'change', 'signIn', 'fullAccess', 'fullAccessRight'],
];

/** All entries of a state but its redirects. */
export function entriesOf(site: Site): Entry[] {
  const { tidy } = site;
  const say = (value: unknown): string => JSON.stringify(value, leavingOutPlaces);
  const entry = (
    section: ChangedSection,
    name: string,
    value: { readonly place?: SourceLocation },
    more: Partial<Entry> = {},
  ): Entry => ({
    section,
    name,
    says: say(value),
    place: value.place ?? null,
    scopes: [],
    targets: [],
    hosted: null,
    conditions: [],
    includes: [],
    offers: false,
    ...more,
  });
  const at = (pattern: Pattern): Scope => ({ pattern, under: false });
  const literally = (path: string): Scope => at(literalPattern(path));
  const given = <T>(values: readonly (T | null | undefined)[]): T[] =>
    values.filter((one): one is T => one !== null && one !== undefined);
  return [
    ...site.pages.map((page) =>
      entry('pages', page.address, page, {
        scopes: [at(page.pattern), ...page.aliases.map(literally)],
        // Its other addresses lead to it.
        targets: given([page.leadsTo, literalOf(page.pattern)]),
        conditions: given([page.missingUnless]),
      }),
    ),
    ...site.gates.map((gate) =>
      entry('gates', gate.name, gate, {
        scopes: gate.scopes,
        targets: gate.otherwise.flatMap((step) => {
          if (step.do === 'send') return [step.to];
          if (step.do === 'refuse') return given([step.show]);
          return step.do === 'sign-in'
            ? given([site.signIn])
            : step.do === 'offer'
              ? given(
                  Object.values(site.products).flatMap(({ buyAt, renewAt }) => [buyAt, renewAt]),
                )
              : [];
        }),
        conditions: [gate.admit, ...gate.otherwise.map(({ who }) => who)],
        offers: gate.otherwise.some((step) => step.do === 'offer'),
        hides: gate.otherwise.some((step) => step.do === 'hide'),
      }),
    ),
    ...site.rewrites.map((rewrite) =>
      entry('rewrites', rewrite.source, rewrite, {
        scopes: [
          at(rewrite.pattern),
          ...(rewrite.canonical ? [at(rewrite.canonical.pattern)] : []),
        ],
        targets: [rewrite.serve.path, ...(rewrite.canonical ? [rewrite.canonical.to.path] : [])],
        conditions: given([rewrite.when]),
        unlessPage: rewrite.unlessPage,
      }),
    ),
    ...site.notFound.map((rule) =>
      entry('not-found', rule.name, rule, {
        scopes: [{ pattern: rule.scope.pattern, under: true }],
        targets: given([rule.show]),
      }),
    ),
    ...site.landings.map((landing) => {
      const name = `after ${landing.after}, to ${landing.go}`;
      return entry('landings', name, landing, { conditions: [landing.who] });
    }),
    ...site.parts.map((part) => entry('parts', part.name, part, { conditions: [part.admit] })),
    ...site.menus.map((menu) => entry('menus', menu.name, menu)),
    ...Object.entries(site.audiences).map(([name, condition]) =>
      entry('audiences', name, { condition } as object, { conditions: [condition] }),
    ),
    ...Object.entries(site.products).map(([name, product]) =>
      entry('products', name, product as object, { includes: product.includes }),
    ),
    ...SETTINGS.map((name) =>
      entry('site', name, { value: site[name] } as object, {
        scopes: ACCESS.includes(name) ? [{ pattern: parsePattern('/'), under: true }] : [],
      }),
    ),
    ...SILENT.map((name) =>
      entry(name === 'accepted' ? 'accepted' : name, '', { value: ofSilent(site, name) } as object),
    ),
  ].map((one) => ({
    ...one,
    targets: one.targets.map((target) =>
      typeof target === 'string' ? normalizePath(pathOf(pathOnSite(target, site)), tidy) : target,
    ),
  }));
}

const ofSilent = (site: Site, name: (typeof SILENT)[number]): unknown => site[name];

const pathOf = (target: string): string => target.replace(/[?#].*$/s, '');

/** Where an entry stands does not matter, and a pattern is what its author wrote. */
function leavingOutPlaces(key: string, value: unknown): unknown {
  if (key === 'place') return undefined;
  return isRecord(value) && Array.isArray(value.parts) && 'text' in value ? value.text : value;
}
