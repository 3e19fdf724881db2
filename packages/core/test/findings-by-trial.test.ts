import { evaluate } from '../src/condition/evaluate.ts';
import { inspectAll } from '../src/findings/findings.ts';
import type { model } from '../src/index.ts';
import type { FindingDraft, FindingValues, People } from '../src/model/finding.ts';
import { randomSites, SEED, SITES } from './reference/everyone.ts';
import { peopleOf, Trial, type Found, type Prepared } from './reference/found-by-trial.ts';
import { report } from './reference/pairs.ts';
import { chance, randomBy } from './reference/random-site.ts';
import { NOW } from './support.ts';

/** A finding as the trial names it; several for a finding about several pages, links or pairs of rules. */
interface Claim {
  readonly key: string;
  /** The visitors whom it names; null where it names nobody. */
  readonly who?: People;
}

function claimsOf(draft: FindingDraft, positions: ReadonlyMap<number, number>): Claim[] {
  const { code, values } = draft;
  const line = positions.get(draft.place.line);
  const about = `${code} ${line} ${'source' in values ? values.source : ''}`;
  switch (code) {
    case 'landing-closed':
      return [
        {
          key: `${code} ${draft.place.line}`,
          // After signing out, everyone is a guest.
          ...(values.after === 'sign-out' ? {} : { who: values.who }),
        },
      ];
    case 'sign-in-closed':
      return [{ key: `${code} ${values.method}` }];
    case 'redirect-loop':
    case 'redirect-to-closed':
      return [{ key: about, ...(/[:*]/.test(values.source) ? {} : { who: values.who }) }];
    case 'redirect-chain':
    case 'redirect-shadowed':
    case 'redirect-dead-end':
    case 'redirect-permanent-for-some':
    case 'rewrite-dead-end':
      return [{ key: about }];
    case 'redirect-hides-page':
    case 'rewrite-hides-page':
      return values.pages.map((page) => ({ key: `${about} ${page}` }));
    case 'rewrite-round-gate':
      return [{ key: `${about} ${values.gate}` }];
    case 'menu-leads-nowhere':
      return values.links.map(({ link, who }) => ({ key: `${code} ${values.menu} ${link}`, who }));
    case 'menu-redirects':
      return [{ key: `${code} ${values.menu} ${values.link}` }];
    case 'unlisted-linked':
      return [{ key: `${code} ${values.menu} ${values.page}` }];
    case 'sends-to-closed':
      return [{ key: `${code} ${values.gate} ${values.to}` }];
    case 'buyer-kept-out':
    case 'product-not-sold':
      return [{ key: `${code} ${values.gate} ${values.product}` }];
    case 'otherwise-unused':
      return [{ key: `${code} ${values.gate} ${values.entry}` }];
    case 'hidden-revealed':
    case 'change-without-view':
    case 'open-beneath':
    case 'offers-nothing':
    case 'gate-covers-nothing':
      return [{ key: `${code} ${values.gate}` }];
    case 'nobody-reaches':
    case 'legal-page-closed':
    case 'newcomer-page-closed':
    case 'no-example':
    case 'person-page-clash':
      return [{ key: `${code} ${values.page}` }];
    case 'full-access-wide':
      return [{ key: code }];
    case 'product-unused':
      return [{ key: `${code} ${draft.subject.name}` }];
    case 'target-undeclared':
    case 'shows-missing':
      return [{ key: `${code} ${values.by} ${values.name} ${values.address}` }];
    case 'date-passed':
      return [{ key: `${code} ${values.kind} ${values.name}` }];
    default:
      return [];
  }
}

/** The pairs of a tie; two that each tie with a third one need not tie with each other. */
function pairsTied({ kind, rules }: FindingValues['tie'], tried: Found): Claim[] {
  const keyOf = (one: string, other: string): string =>
    `tie ${kind} ${[one, other].sort().join(' ')}`;
  const names = rules.map(({ name }) => name);
  const isTied = (name: string): boolean =>
    names.some((other) => other !== name && tried.has(keyOf(name, other)));
  return names
    .flatMap((name, i) => names.slice(i + 1).map((other) => [name, other] as const))
    .filter(([one, other]) => tried.has(keyOf(one, other)) || !isTied(one) || !isTied(other))
    .map(([one, other]) => ({ key: keyOf(one, other) }));
}

const peopleAmong = (
  everyone: readonly model.Visitor[],
  who: People,
  { names }: Prepared,
): readonly model.Visitor[] =>
  who === 'everyone'
    ? everyone
    : everyone.filter((visitor) =>
        evaluate(who.condition, { visitor, at: NOW, path: {}, query: '' }, names),
      );

/** Sites with more kinds of people take too long. */
const MOST_PEOPLE = 400;

test('each finding is true, and none is missing', () => {
  const counts: Record<string, { true: number; false: number; missed: number }> = {};
  const faults: { fault: string; text: string }[] = [];
  for (const [prepared, text, file] of randomSites(chance(randomBy(SEED)), Math.ceil(SITES / 4))) {
    const { site } = prepared;
    const people = peopleOf(file);
    if (people.length > MOST_PEOPLE) continue;
    const { found: tried, visitors } = new Trial(prepared, file, people);
    const positions = new Map(
      [site.redirects, site.rewrites].flatMap((rules) =>
        rules.map(({ place }, i) => [place.line, i] as const),
      ),
    );
    const drafts = inspectAll(prepared, NOW);
    if (drafts.some(({ code }) => code === 'too-many-cases')) continue;
    const claims = new Map(
      drafts
        .flatMap((draft) =>
          draft.code === 'tie' ? pairsTied(draft.values, tried) : claimsOf(draft, positions),
        )
        .map((claim) => [claim.key, claim]),
    );
    const count = (key: string, as: 'true' | 'false' | 'missed'): void => {
      const code = key.split(' ')[0]!;
      (counts[code] ??= { true: 0, false: 0, missed: 0 })[as]++;
      if (as !== 'true') faults.push({ fault: `${as}: ${key}`, text });
    };
    for (const { key, who } of claims.values()) {
      const expected = tried.get(key);
      const named = who === undefined || !expected ? null : peopleAmong(visitors, who, prepared);
      const isExact = named?.every((one) => expected!.has(visitors.indexOf(one))) ?? true;
      const isWhole = named === null || named.length === expected!.size;
      count(key, expected && isExact && (isWhole || who === 'everyone') ? 'true' : 'false');
    }
    for (const key of tried.keys()) if (!claims.has(key)) count(key, 'missed');
  }
  if (SITES > 400) report({ counts, faults: faults.length });
  const [first] = faults;
  if (first) throw new Error([...faults.map(({ fault }) => fault), first.text].join('\n'));
  expect(Object.keys(counts).length).toBeGreaterThan(15);
});
