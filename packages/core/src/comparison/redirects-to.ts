import { normalizePath } from '../address/tidy.ts';
import { startOf } from '../explore/rules-near.ts';
import { literalOf } from '../model/pattern.ts';
import type { Redirect, Site } from '../model/site.ts';
import { PathLanguage } from '../pattern/language.ts';

/** More than these nobody reads. */
const MOST_TOLD = 20;

/**
 * The redirects that may lead to an address of a site: what is told of the address is so for whoever comes by them.
 *
 * @returns their sources by the path that is asked for, in the form in which rules are matched
 */
export function redirectsTo({ redirects, tidy }: Site): (path: string) => readonly string[] {
  const plain = new Map<string, string[]>();
  const many: Redirect[] = [];
  for (const redirect of redirects) {
    const { to, source } = redirect;
    if (to.origin !== null) continue;
    const literal = literalOf(to.path);
    if (literal === null) {
      // One that may lead anywhere, as of a whole host, would be told of every address.
      if (startOf(to.path) !== '/') many.push(redirect);
      continue;
    }
    const path = normalizePath(literal, tidy);
    const same = plain.get(path);
    if (same) same.push(source);
    else plain.set(path, [source]);
  }
  return (path) => [
    ...(plain.get(path) ?? []).slice(0, MOST_TOLD),
    ...many
      .filter(({ to }) => PathLanguage.of({ pattern: to.path, under: false }).has(path))
      .map(({ source }) => source),
  ];
}
