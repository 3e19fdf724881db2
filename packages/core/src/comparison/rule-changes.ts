import { walk, type Condition } from '../model/condition.ts';
import { isRecord } from '../model/plain-value.ts';
import type { Redirect, Scope, Site } from '../model/site.ts';
import type { SectionName } from '../model/section.ts';
import type { SourceLocation } from '../model/source-location.ts';
import { literalOf, type Pattern } from '../model/pattern.ts';
import { escapePattern } from '../pattern/escape.ts';
import { parsePattern } from '../pattern/parse.ts';
import { normalizePath } from '../address/tidy.ts';

/** Sections whose entries are compared one by one; of the others it is only told that they differ. */
export type ChangedSection = SectionName | 'site';

/** An entry of a site file that differs between two states. */
export interface RuleChange {
  readonly section: ChangedSection;
  /** What it is called: the address of a page, what a redirect is from, the name of a gate or a setting. */
  readonly name: string;
  readonly is: 'added' | 'removed' | 'changed';
  /** Where it stands in each state; null where it does not, and for what has no single place. */
  readonly before: SourceLocation | null;
  readonly after: SourceLocation | null;
}

/** An entry of one state: what of it matters, and where its addresses are. */
export interface Entry {
  readonly section: ChangedSection;
  readonly name: string;
  /** All that it says, as text: two entries that say the same are the same. */
  readonly says: string;
  readonly place: SourceLocation | null;
  /** The addresses at which it is asked. */
  readonly scopes: readonly Scope[];
  /** Where it may take someone, or whose page it may show. */
  readonly targets: readonly (string | Pattern)[];
  /** The same at other hosts, of which only redirects are known. */
  readonly hosted: Pick<Entry, 'scopes' | 'targets'> | null;
  readonly conditions: readonly Condition[];
  /** It may offer products. */
  readonly offers: boolean;
}

/** An entry with what is the same in two states left out. */
export interface EntryChange extends RuleChange {
  readonly entries: readonly Entry[];
}

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

/** The entries of both states, and those that differ. */
export interface EntryChanges {
  readonly before: readonly Entry[];
  readonly after: readonly Entry[];
  readonly changes: readonly EntryChange[];
}

/** Compares two states of a site entry by entry; where entries stand does not matter. */
export function entryChanges(before: Site, after: Site): EntryChanges {
  const all = [entriesOf(before), entriesOf(after)] as const;
  const [was, is] = all.map(byName) as [Map<string, Entry>, Map<string, Entry>];
  const changes: EntryChange[] = [];
  for (const key of new Set([...was.keys(), ...is.keys()])) {
    const [old, now] = [was.get(key), is.get(key)];
    if (old?.says === now?.says) continue;
    const { section, name } = (now ?? old)!;
    changes.push({
      section,
      name,
      is: old ? (now ? 'changed' : 'removed') : 'added',
      before: old?.place ?? null,
      after: now?.place ?? null,
      entries: [old, now].filter((one) => one !== undefined),
    });
  }
  return { before: all[0], after: all[1], changes };
}

/** Entries by section and name; those of a list that have the same name are told apart by what they say. */
function byName(entries: readonly Entry[]): Map<string, Entry> {
  const same = new Map<string, Entry[]>();
  for (const entry of entries) {
    const key = JSON.stringify([entry.section, entry.name]);
    const others = same.get(key);
    if (others) others.push(entry);
    else same.set(key, [entry]);
  }
  return new Map(
    [...same].flatMap(([key, those]) =>
      those.length === 1
        ? [[key, those[0]!] as const]
        : those.map((one, i) => [`${key} ${one.says} ${i}`, one] as const),
    ),
  );
}

function entriesOf(site: Site): Entry[] {
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
    offers: false,
    ...more,
  });
  const at = (pattern: Pattern): Scope => ({ pattern, under: false });
  const literally = (path: string): Scope => at(parsePattern(escapePattern(path)));
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
              ? given(Object.values(site.products).map(({ buyAt }) => buyAt))
              : [];
        }),
        conditions: [gate.admit, ...gate.otherwise.map(({ who }) => who)],
        offers: gate.otherwise.some((step) => step.do === 'offer'),
      }),
    ),
    ...site.redirects.map((redirect): Entry => {
      // The pattern and what the query must have follow from what it is from.
      const { place, pattern: _, to, queryConstraints: __, inverseOf: ___, ...rest } = redirect;
      return {
        section: 'redirects',
        name: redirect.source,
        says: JSON.stringify([to.text, rest]),
        place,
        ...dividedByHost(site, redirect),
        conditions: given([redirect.when]),
        offers: false,
      };
    }),
    ...site.rewrites.map((rewrite) =>
      entry('rewrites', rewrite.source, rewrite, {
        scopes: [
          at(rewrite.pattern),
          ...(rewrite.canonical ? [at(rewrite.canonical.pattern)] : []),
        ],
        targets: [rewrite.serve.path, ...(rewrite.canonical ? [rewrite.canonical.to.path] : [])],
        conditions: given([rewrite.when]),
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
      entry('products', name, product as object),
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
      typeof target === 'string' ? normalizePath(pathOf(target), tidy) : target,
    ),
  }));
}

const ofSilent = (site: Site, name: (typeof SILENT)[number]): unknown => site[name];

/** Where a redirect is asked and where it leads, on the site's own hosts and on others. */
function dividedByHost(
  site: Site,
  { host, pattern, to }: Redirect,
): Pick<Entry, 'scopes' | 'targets' | 'hosted'> {
  const scopes = [{ pattern, under: false }];
  const isAway = host !== null && host !== site.host;
  const leavesSite = to.origin !== null && !isOwn(site, to.origin);
  return {
    scopes: isAway ? [] : scopes,
    targets: leavesSite ? [] : [to.path],
    hosted:
      isAway || leavesSite
        ? { scopes: isAway ? scopes : [], targets: leavesSite ? [to.path] : [] }
        : null,
  };
}

const isOwn = ({ host, also }: Site, origin: string): boolean =>
  [host, ...also].includes(origin.replace(/^https?:\/\//, ''));

const pathOf = (target: string): string => target.replace(/[?#].*$/s, '');

/** Where an entry stands does not matter, and a pattern is what its author wrote. */
function leavingOutPlaces(key: string, value: unknown): unknown {
  if (key === 'place') return undefined;
  return isRecord(value) && Array.isArray(value.parts) && 'text' in value ? value.text : value;
}

/** The audiences that differ, and those that mention such a one. */
export function changedAudiences(
  all: readonly Entry[],
  changes: readonly EntryChange[],
): Set<string> {
  const names = new Set(
    changes.filter(({ section }) => section === 'audiences').map(({ name }) => name),
  );
  const audiences = all.filter(({ section }) => section === 'audiences');
  for (let size = -1; size !== names.size;) {
    size = names.size;
    for (const { name, conditions } of audiences)
      if (conditions.some((one) => mentions(one, names))) names.add(name);
  }
  return names;
}

/** Whether a condition names one of some audiences. */
export function mentions(condition: Condition, audiences: ReadonlySet<string>): boolean {
  let is = false;
  walk(condition, (inner) => {
    if (inner.is === 'audience' && audiences.has(inner.name)) is = true;
  });
  return is;
}
