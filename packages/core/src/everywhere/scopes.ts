import { normalizePath } from '../address/tidy.ts';
import { literalOf, type Pattern } from '../model/pattern.ts';
import type { Scope } from '../model/site.ts';
import type { Tidy } from '../model/tidy.ts';
import { PathLanguage } from '../pattern/language.ts';
import { sectionHead } from '../pattern/matched-groups.ts';
import { regexpOf } from '../pattern/regexp.ts';

/** Tells the paths of some scopes, in the form in which rules are matched; all paths where there are none. */
export function scopeTest(scopes: readonly Scope[], tidy: Tidy): (path: string) => boolean {
  const tests = scopes.map(({ pattern, under }): ((path: string) => boolean) => {
    const literal = literalOf(pattern);
    if (literal !== null) {
      const own = normalizePath(literal, tidy);
      const above = own === '/' ? '/' : `${own}/`;
      return (path) => path === own || (under && path.startsWith(above));
    }
    const regexp = regexpOf(pattern);
    return under ? (path) => sectionHead(pattern, path) !== null : (path) => regexp.matches(path);
  });
  return (path) => tests.length === 0 || tests.some((isIn) => isIn(path));
}

/** Whether a rule is for all addresses of a scope. */
export const holds = (rule: Scope, scope: Scope): boolean =>
  PathLanguage.of(scope).without(PathLanguage.of(rule)).isEmpty;

/** What all addresses beneath a section begin with; null for a pattern that is not all that is beneath one. */
export function sectionAbove(pattern: Pattern, tidy: Tidy): string | null {
  const section = /^([^:*(){}+?\\]*)\/\*$/.exec(pattern.text)?.[1];
  if (section === undefined) return null;
  return section === '' ? '/' : `${normalizePath(section, tidy)}/`;
}

/** A path, and each beginning of it that ends before a slash. */
export function pathsAbove(path: string): string[] {
  const all = [path];
  for (let end = path.lastIndexOf('/'); end > 0; end = path.lastIndexOf('/', end - 1))
    all.push(path.slice(0, end));
  return all;
}

/** Whether a scope holds some addresses of a pattern, and not all. */
export function cuts(scope: Scope, pattern: Pattern): boolean {
  const [whole, inside] = [PathLanguage.of({ pattern, under: false }), PathLanguage.of(scope)];
  return whole.meets(inside) && !whole.without(inside).isEmpty;
}
