import { readAddress } from '../address/address.ts';
import { exampleOf } from '../site/example.ts';
import { regexpOf } from '../pattern/regexp.ts';
import { lookUp } from '../pattern/index-of-patterns.ts';
import { literalOf } from '../pattern/pattern.ts';
import { fillTarget } from '../pattern/target.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import type { Rewrite } from '../site/site.ts';
import type { Found, Inspected } from './found.ts';

/** A rewrite serves an address at which no page is: whoever asks is told that there is nothing. */
export function rewriteDeadEnd({ prepared }: Inspected): Found[] {
  return prepared.site.rewrites.flatMap((rewrite): Found[] => {
    const served = servedFor(prepared, rewrite);
    // Where the path is filled in, an example says nothing about the others.
    const isPlain = literalOf(rewrite.serve.path) !== null;
    if (!isPlain || served === null || lookUp(prepared.pages, served).length > 0) return [];
    return [
      {
        code: 'rewrite-dead-end',
        severity: 'medium',
        about: `rewrite ${rewrite.name}`,
        place: rewrite.place,
        message: `${rewrite.name} is served from ${served}, and there is no such page.`,
        remedy: 'Serve it from a page that is there, or add the page.',
      },
    ];
  });
}

/** The path that an example of a rewrite is served from; null on another server. */
export function servedFor({ site }: PreparedSite, { pattern, serve }: Rewrite): string | null {
  const groups = groupsFor(exampleOf(pattern, null), pattern);
  const read = readAddress(fillTarget(serve, groups, ''), site, site.tidy);
  return serve.origin === null && read.ok ? read.address.path : null;
}

function groupsFor(address: string, pattern: Rewrite['pattern']): Record<string, string> {
  const matcher = regexpOf(pattern).matcher(address);
  if (!matcher.matches()) return {};
  return Object.fromEntries(
    pattern.names.map((name, position) => [name, matcher.group(position + 1) ?? '']),
  );
}
