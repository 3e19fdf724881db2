import { lookUp } from '../pattern/index-of-patterns.ts';
import { literalOf } from '../pattern/pattern.ts';
import { matchForm } from '../address/tidy.ts';
import type { Redirect } from '../site/site.ts';
import type { Found, Inspected } from './found.ts';

/** A redirect that never applies, because another one is always first at its address. */
export function redirectShadowed({ prepared }: Inspected): Found[] {
  const { site, redirects, redirectsByHost } = prepared;
  return site.redirects.flatMap((redirect): Found[] => {
    const literal = literalOf(redirect.pattern);
    if (literal === null) return [];
    const { host, name, place } = redirect;
    const index = host === null || host === site.host ? redirects : redirectsByHost.get(host);
    const matches = index ? lookUp(index, matchForm(literal, site.tidy)) : [];
    const own = matches.findIndex(({ rule }) => rule === redirect);
    const before = matches
      .slice(0, Math.max(own, 0))
      .find(({ rule }) => isAlways(rule) && !isTie(rule, redirect));
    if (!before) return [];
    return [
      {
        code: 'redirect-shadowed',
        severity: 'medium',
        about: `redirect ${name}`,
        place,
        message: `The redirect from ${name} never applies: the one from ${before.rule.name} (line ${before.rule.place.line}) comes first.`,
        remedy: 'Remove it, or give it the higher "rank".',
      },
    ];
  });
}

const isAlways = ({ when, from, until, unlessPage, asked }: Redirect): boolean =>
  when === null && asked.length === 0 && from === null && until === null && !unlessPage;

/** Two that only their names tell apart are found as a tie. */
const isTie = (one: Redirect, other: Redirect): boolean =>
  one.rank === other.rank && one.pattern.text === other.pattern.text;
