import { normalizePath } from '../address/tidy.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { Explorer } from '../explore/explorer.ts';
import { addressesOfPage, type AddressSet } from '../explore/address-set.ts';
import { familyOf, type Family } from '../explore/families.ts';
import { rulesNear } from '../explore/rules-near.ts';
import { arrivingAt } from '../landing/landing.ts';
import type { Condition } from '../model/condition.ts';
import type { Guarantee } from '../model/guarantee.ts';
import { literalOf, type Pattern } from '../model/pattern.ts';
import type { Page, Redirect, Rewrite, Scope } from '../model/site.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { exampleOf, exampleOfRedirect, exampleQuery } from '../pattern/example.ts';
import { PathLanguage } from '../pattern/language.ts';
import { groupsTaken } from '../pattern/matched-groups.ts';
import { normalizePattern } from '../pattern/normalize.ts';
import { parsePattern } from '../pattern/parse.ts';
import { rulesAt } from '../pattern/pattern-index.ts';
import { cuts, holds, pathsAbove, scopeTest, sectionAbove } from './scopes.ts';

/** Addresses, treated alike by all rules, at which visits begin. */
export interface Start {
  readonly family: Family;
  /** Protocol and host before the path; empty for the site's own. */
  readonly origin: string;
  /** The query behind the path, with its question mark; empty for none. */
  readonly query: string;
  /** The pattern that they are addresses of, where they are found by one. */
  readonly of?: string;
  /** Whom it is for; everyone where nothing is said. */
  readonly among?: Condition;
}

const at = (family: Family, origin = '', query = ''): Start => ({ family, origin, query });

/** An address at which visits begin. */
export const addressOf = ({ family, origin, query }: Pick<Start, 'family' | 'origin' | 'query'>) =>
  origin + family.example + query;

/** Where visits can begin, of all that matters to guarantees; the families of addresses are found once for all moments. */
export class Starts {
  private readonly families = new Map<string, readonly Family[]>();
  private readonly prepared: PreparedSite;
  /** Each page with its path, null where that is a pattern, and its other paths, as rules are matched. */
  private readonly pages: readonly { page: Page; path: string | null; aliases: string[] }[];
  private readonly first: Explorer;
  private readonly others: readonly Explorer[];

  /** The patterns of rules whose addresses were found. */
  private readonly found = new Set<string>();

  /**
   * @param explorers of one state of a site at all moments that matter, at least one; addresses are found by the rules
   *   of the first, and told apart by those of all
   * @param except whose addresses of rules are known, and not found again
   */
  constructor(
    explorers: readonly Explorer[],
    private readonly except?: Starts,
  ) {
    const [first, ...others] = explorers;
    this.first = first!;
    this.others = others;
    this.prepared = first!.prepared;
    const { pages, tidy } = this.prepared.site;
    this.pages = pages.map((page) => {
      const literal = literalOf(page.pattern);
      return {
        page,
        path: literal === null ? null : normalizePath(literal, tidy),
        aliases: page.aliases.map((alias) => normalizePath(alias, tidy)),
      };
    });
  }

  /** The pages in some scopes; of a page that is only partly in one, that part. */
  ofPages(scopes: readonly Scope[]): Start[] {
    const isIn = scopeTest(scopes, this.prepared.site.tidy);
    return this.pages.flatMap(({ page, path, aliases }): Start[] => {
      const others = aliases.filter(isIn).map((alias) => at(familyOf(alias)));
      if (path !== null) return isIn(path) ? [at(familyOf(page.example)), ...others] : others;
      const { pattern } = page;
      const own = scopes.filter((scope) => cuts(scope, pattern));
      const families = this.familiesAmong(
        `page ${page.address}`,
        addressesOfPage(this.prepared, page),
        own,
      );
      return [
        ...families.filter(({ example }) => isIn(example)).map((family) => at(family)),
        ...others,
      ];
    });
  }

  /**
   * The addresses in some scopes that no page has: where rules stand, and the rest.
   *
   * @param besides more scopes by which they are told apart
   */
  undeclared(scopes: readonly Scope[], besides: readonly Scope[] = []): Start[] {
    const { prepared } = this;
    const isIn = scopeTest(scopes, this.prepared.site.tidy);
    const isFree = (path: string): boolean => rulesAt(prepared.pages, path).length === 0;
    const everywhere = scopes.length > 0 ? scopes : [{ pattern: this.root(), under: true }];
    const near = everywhere.flatMap((scope) => this.rulesIn(scope));
    // Of a rule that is for all of a scope, no more than the scope matters.
    const within = everywhere.flatMap((scope) =>
      this.rulesIn(scope).map((rule) => (holds(rule, scope) ? scope : rule)),
    );
    return [
      ...this.ofRules('undeclared', within, isFree, [...scopes, ...besides]).filter(({ family }) =>
        isIn(family.example),
      ),
      ...everywhere.flatMap((scope) =>
        this.rest(scope, near, (path) => isIn(path) && isFree(path)),
      ),
    ];
  }

  /** The addresses that a rewrite is from. */
  ofRewrite({ pattern }: Rewrite): Start[] {
    return this.familiesAmong(`all ${pattern.text}`, allOf(pattern), []).map((family) =>
      at(family),
    );
  }

  /** The addresses where something else is served. */
  ofRewrites(): Start[] {
    const rules = this.prepared.site.rewrites.map(({ pattern }) => ({ pattern, under: false }));
    return this.ofRules('all', rules, () => true, []);
  }

  /** The targets of menus, landings and redirects. */
  ofLinks(): Start[] {
    const { menus, landings, redirects } = this.prepared.site;
    // What a menu leaves out leads nobody anywhere.
    const links = menus.filter(({ onlyUsable }) => !onlyUsable).flatMap((menu) => menu.links);
    return [
      ...links.filter((link) => link.startsWith('/')).map((link) => at(familyOf(link))),
      ...landings.map((landing) => ({
        ...at(familyOf(landing.go)),
        among: arrivingAt(landing, landings),
      })),
      ...redirects.flatMap((redirect) => this.ofRedirect(redirect)),
    ];
  }

  /** The old addresses that a guarantee is about. */
  ofOld({ host, pattern }: NonNullable<Guarantee['old']>): Start[] {
    const origin = host === null ? '' : `https://${host}`;
    const literal = literalOf(pattern);
    if (literal !== null) return [at(familyOf(literal), origin)];
    const rules = this.prepared.site.redirects
      .filter((redirect) => redirect.host === host && redirect.queryConstraints.length === 0)
      .map((redirect) => ({ pattern: redirect.pattern, under: false }));
    const key = `old ${origin}${pattern.text}`;
    return this.familiesAmong(key, allOf(pattern), rules, origin).map((family) =>
      at(family, origin),
    );
  }

  /** The addresses that a redirect is from. */
  ofRedirect(redirect: Redirect): Start[] {
    const { pattern, host, queryConstraints } = redirect;
    if (literalOf(pattern) !== null) return [at(familyOf(exampleOfRedirect(redirect)))];
    const origin = host === null ? '' : `https://${host}`;
    const query = exampleQuery(queryConstraints);
    const key = `all ${origin}${pattern.text}${query}`;
    return this.familiesAmong(key, allOf(pattern), [], origin, query).map((family) =>
      at(family, origin, query),
    );
  }

  private familiesAmong(
    key: string,
    addresses: AddressSet,
    scopes: readonly Scope[],
    origin = '',
    query = '',
  ): readonly Family[] {
    const whole = JSON.stringify([key, scopes.map(({ pattern, under }) => [pattern.text, under])]);
    let families = this.families.get(whole);
    if (!families) {
      families = this.first.familiesAmong(addresses, scopes, [origin, query], this.others);
      this.families.set(whole, families);
    }
    return families;
  }

  /** The rules that hold some addresses of a scope. */
  private rulesIn(scope: Scope): Scope[] {
    const { prepared } = this;
    const isIn = scopeTest([scope], this.prepared.site.tidy);
    const literal = scope.under ? literalOf(scope.pattern) : null;
    // Every address of a section but the first begins with it and a slash.
    const near = literal === null || literal === '/' ? scope.pattern : `${literal}/`;
    return rulesNear(prepared, near, ['gates', 'redirects', 'rewrites'])
      .map((rule) => rule.scope)
      .filter((rule) => {
        const own = literalOf(rule.pattern);
        if (own !== null && isIn(normalizePath(own, prepared.site.tidy))) return true;
        if (own !== null && !rule.under) return false;
        return PathLanguage.of(rule).meets(PathLanguage.of(scope));
      });
  }

  /** The families of addresses at which rules stand. */
  private ofRules(
    key: string,
    rules: readonly Scope[],
    owns: (path: string) => boolean,
    scopes: readonly Scope[],
  ): Start[] {
    const { tidy } = this.prepared.site;
    const patterns = new Map<string, Pattern>();
    const sections = new Set<string>();
    for (const { pattern, under } of rules) {
      patterns.set(pattern.text, pattern);
      if (!under) continue;
      const beneath = this.beneath(pattern);
      patterns.set(beneath.text, beneath);
      const section = literalOf(pattern);
      if (section !== null && section !== '/') sections.add(normalizePath(section, tidy));
    }
    return [...patterns].flatMap(([text, pattern]): Start[] => {
      if (this.except?.found.has(`${key} ${text}`)) return [];
      this.found.add(`${key} ${text}`);
      const literal = literalOf(pattern);
      if (literal !== null) {
        const path = normalizePath(literal, tidy);
        return owns(path) ? [at(familyOf(path))] : [];
      }
      const own = scopes.filter((scope) => cuts(scope, pattern));
      // A section beneath this one has its own addresses among these.
      const above = sectionAbove(pattern, tidy);
      const isDeeper = (section: string): boolean =>
        above !== null && section.startsWith(above) && sections.has(section);
      const addresses: AddressSet = {
        ...allOf(pattern, (path) => owns(path) && !pathsAbove(path).some(isDeeper)),
        elsewhere: new Set(
          rulesNear(this.prepared, pattern).flatMap(({ scope }) => {
            const section = scope.under ? literalOf(scope.pattern) : null;
            return section !== null && isDeeper(normalizePath(section, tidy)) ? [scope] : [];
          }),
        ),
      };
      return this.familiesAmong(`${key} ${text}`, addresses, own).map((family) => ({
        ...at(family),
        of: text,
      }));
    });
  }

  /** The addresses of a scope that no rule is for are all treated alike: one of them. */
  private rest(scope: Scope, rules: readonly Scope[], owns: (path: string) => boolean): Start[] {
    const literal = literalOf(scope.pattern);
    const { gates, redirects, rewrites } = this.prepared;
    const isFree = (path: string): boolean =>
      owns(path) &&
      [gates.view, gates.change].every((index) => rulesAt(index, path).length === 0) &&
      rulesAt(redirects, path).length === 0 &&
      rulesAt(rewrites, path).length === 0;
    if (literal !== null && !scope.under) {
      const path = normalizePath(literal, this.prepared.site.tidy);
      return isFree(path) ? [at(familyOf(path))] : [];
    }
    const base = literal ?? exampleOf(scope.pattern, null);
    const plain = scope.under ? `${base === '/' ? '' : base}/${NOWHERE}` : base;
    const of = scope.under ? `${base === '/' ? '' : base}/*` : scope.pattern.text;
    // Pages that are patterns may have all addresses of a depth.
    const deeper = Array.from({ length: scope.under ? DEEPEST : 0 }, (_, i) =>
      plain.concat(`/${NOWHERE}`.repeat(i + 1)),
    );
    const free = [plain, ...deeper].find(isFree);
    const isIn = scopeTest([scope], this.prepared.site.tidy);
    const restWith = (example: string): Start[] => [
      { ...at({ ...familyOf(example), has: (path) => isIn(path) && isFree(path) }), of },
    ];
    if (free !== undefined) return restWith(free);
    // One rule for all of it leaves no rest.
    const isThere = (rule: Scope): boolean => scopeTest([rule], this.prepared.site.tidy)(plain);
    if (rules.some((rule) => isThere(rule) && holds(rule, scope))) return [];
    const many = [...rules, ...this.pagesNear(scope)].filter(
      ({ pattern, under }) => under || literalOf(pattern) === null,
    );
    if (many.length > MOST_TAKEN_OUT) throw new TooManyCases();
    const rest = many.reduce(
      (left, rule) => (left.isEmpty ? left : left.without(PathLanguage.of(rule))),
      PathLanguage.of(scope),
    );
    const { tidy } = this.prepared.site;
    const left = rest.and(PathLanguage.tidy(tidy));
    let tried = 0;
    for (const path of left.examples(tidy)) {
      if (isFree(path)) return restWith(path);
      if (++tried > MOST_TRIED) break;
    }
    if (left.isEmpty) return [];
    // The single addresses of rules may be all that is left.
    const single = [...rules, ...this.pagesNear(scope)].flatMap(({ pattern, under }) => {
      const own = under ? null : literalOf(pattern);
      return own === null ? [] : [normalizePath(own, tidy)];
    });
    if (left.without(PathLanguage.only(single)).isEmpty) return [];
    throw new TooManyCases();
  }

  private pagesNear({ pattern }: Scope): Scope[] {
    return rulesNear(this.prepared, pattern, ['pages']).map((rule) => rule.scope);
  }

  private beneath({ text }: Pattern): Pattern {
    const { tidy } = this.prepared.site;
    const options = { ignoreCase: tidy.case === 'lower', fold: true };
    return normalizePattern(parsePattern(`${text.replace(/\/$/, '')}/*`, options), tidy);
  }

  private root(): Pattern {
    return parsePattern('/', { ignoreCase: this.prepared.site.tidy.case === 'lower' });
  }
}

const MOST_TAKEN_OUT = 60;
const MOST_TRIED = 300;
const DEEPEST = 6;
/** What no rule names. */
const NOWHERE = 'kx3-wj9';

const allOf = (pattern: Pattern, owns: (path: string) => boolean = () => true): AddressSet => ({
  pattern,
  example: exampleOf(pattern, null),
  owns,
  groupsOf: (path) => groupsTaken(pattern, path),
});
