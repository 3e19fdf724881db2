import { normalizePath } from '../address/tidy.ts';
import { literalOf } from '../model/pattern.ts';
import type { Redirect, Site } from '../model/site.ts';
import { normalizePattern } from '../pattern/normalize.ts';
import { isSame } from '../site/edit/change-value.ts';

/** Whether source and target of a redirect are the same address, in any spelling. */
export function leadsToItself(
  { host, to, pattern, queryConstraints }: Redirect,
  site: Site,
): boolean {
  const isOwn =
    (host === null || host === site.host) &&
    (to.origin === null || to.origin === `${site.protocol}//${site.host}`);
  if (!isOwn || queryConstraints.length > 0) return false;
  const [from, target] = [literalOf(pattern), literalOf(to.path)];
  if (from !== null) return target !== null && normalizePath(target, site.tidy) === from;
  if (target !== null) return false;
  return isSame(normalizePattern(to.path, site.tidy).parts, pattern.parts);
}
