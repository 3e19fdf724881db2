import { normalizePath } from '../address/tidy.ts';
import { titleFromPath } from '../address/title.ts';
import { rulesNear, startOf } from '../explore/rules-near.ts';
import { literalOf } from '../model/pattern.ts';
import type { Redirect, Scope } from '../model/site.ts';
import { PathLanguage } from '../pattern/language.ts';
import { undeclaredTargets } from '../reach/undeclared-targets.ts';
import { pointer } from '../site/yaml/pointer.ts';
import { nearest } from '../text/nearest.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** Each is compared with all pages. */
const MOST_COMPARED = 200;
/** As many comparisons of gates with declared addresses take about a second. */
const MOST_COMPARISONS = 4_000_000;

/** Reports undeclared addresses that rules name if `undeclared` is `website`. They may be mistyped. */
export function targetUndeclared(context: InspectionContext): FindingDraft[] {
  if (context.prepared.site.undeclared !== 'website') return [];
  return [...targets(context), ...mistypedScopes(context)];
}

function targets({ prepared }: InspectionContext): FindingDraft[] {
  const pages = prepared.site.pages.map(({ address }) => address);
  let left = MOST_COMPARED;
  return undeclaredTargets(prepared).map(({ by, name, address, place }): FindingDraft => {
    const meant = left-- > 0 ? nearest(address, pages) : null;
    return {
      code: 'target-undeclared',
      severity: meant === null ? 'low' : 'medium',
      subject: { kind: by, name },
      place,
      values: { by, name, address, meant },
      // Adding a mistyped address would hide the mistake.
      fix:
        meant === null
          ? [{ op: 'add', path: pointer('pages', address), value: titleFromPath(address) }]
          : null,
    };
  });
}

/** Reports gates at undeclared addresses that resemble a declared one. Other such gates may cover parts of the website. */
function mistypedScopes({ prepared }: InspectionContext): FindingDraft[] {
  const { pages, rewrites, redirects, gates, tidy } = prepared.site;
  const isOfHome = ({ host }: Redirect): boolean => host === null || host === prepared.site.host;
  const sections = new Set(
    [...pages, ...rewrites, ...redirects.filter(isOfHome)].flatMap(({ pattern }) => {
      const literal = literalOf(pattern);
      const whole = literal === null ? null : normalizePath(literal, tidy);
      return sectionsOf(whole ?? startOf(pattern).replace(/[^/]*$/, ''));
    }),
  );
  const served = rewrites.flatMap(({ serve }) =>
    serve.origin === null ? [{ pattern: serve.path, under: false }] : [],
  );
  const coversDeclared = (scope: Scope): boolean => {
    const covered = PathLanguage.of(scope);
    const near = rulesNear(prepared, scope.pattern, ['pages', 'rewrites', 'redirects']);
    // Gates at the address that a rewrite serves are asked too.
    return [...near.map((rule) => rule.scope), ...served].some((one) =>
      covered.meets(PathLanguage.of(one)),
    );
  };
  let left = Math.min(MOST_COMPARED, MOST_COMPARISONS / sections.size);
  return gates.flatMap(({ name, scopes, place }) =>
    scopes.flatMap((scope): FindingDraft[] => {
      const literal = literalOf(scope.pattern);
      if (literal === null) return [];
      const path = normalizePath(literal, tidy);
      if (sections.has(path) || left-- <= 0 || coversDeclared(scope)) return [];
      const meant = nearest(path, sections);
      if (meant === null) return [];
      return [
        {
          code: 'target-undeclared',
          severity: 'medium',
          subject: { kind: 'gate', name },
          place,
          values: { by: 'scope', name, address: path, meant },
        },
      ];
    }),
  );
}

/** Returns an address with the sections around it, for example `/a`, `/a/b` and `/a/b/c`; not `/`. */
const sectionsOf = (path: string): string[] =>
  [...path.matchAll(/[^/](?=\/|$)/g)].map(({ index }) => path.slice(0, index + 1));
