import { siteAddress } from '../decision/site-address.ts';
import type { Explorer } from '../explore/explorer.ts';
import type { Family } from '../explore/families.ts';
import { NONE } from '../explore/visitor-sets.ts';
import type { Gate } from '../model/site.ts';
import { decodeGroups } from '../pattern/fill.ts';
import type { Match } from '../pattern/pattern-index.ts';
import { isInForce } from '../time/period.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/**
 * An exception in a hidden section answers visitors from whom the section is hidden, for example with a request to
 * sign in: they learn that the section exists.
 */
export function hiddenRevealed(inspected: InspectionContext): FindingDraft[] {
  const { prepared, explorer, familiesOf } = inspected;
  if (!prepared.hides) return [];
  const found = new Map<string, FindingDraft>();
  for (const page of prepared.site.pages)
    for (const family of familiesOf(page))
      for (const draft of revealedAt(explorer.within(family), family))
        if (!found.has(draft.subject.name)) found.set(draft.subject.name, draft);
  return [...found.values()];
}

function revealedAt(explorer: Explorer, { example }: Family): FindingDraft[] {
  const { prepared, atoms } = explorer;
  const read = siteAddress(prepared, example);
  if (!read.ok) return [];
  const gates = read.address.gates('view').filter(({ rule }) => isInForce(rule, explorer.at));
  const hiding = gates.filter(({ rule }) => rule.otherwise.some((step) => step.do === 'hide'));
  if (gates.length < 2 || hiding.length === 0) return [];
  return explorer.partsOf(example).flatMap(({ visitors, end }): FindingDraft[] => {
    const refusal = end.hops[0]!.decision.reasons.find(({ code }) => code === 'not-admitted');
    if (refusal?.code !== 'not-admitted') return [];
    const { gate: name, then } = refusal.values;
    const gate = prepared.site.gates.find((one) => one.name === name)!;
    const answer = ANSWERS[then.do];
    if (answer === null) return [];
    return hiding.flatMap((outer): FindingDraft[] => {
      if (outer.rule === gate) return [];
      const who = explorer.describe(atoms.sets.and(visitors, hiddenBy(explorer, outer)));
      if (who === null) return [];
      return [
        {
          code: 'hidden-revealed',
          severity: 'medium',
          subject: { kind: 'gate', name },
          place: gate.place,
          values: { gate: name, above: outer.rule.name, who, answer },
        },
      ];
    });
  });
}

/** The answer to a visitor whom a gate turns away; null for one that hides the section. */
const ANSWERS = {
  'no-sign-in-page': 'sign-in',
  'nothing-sold': 'offer',
  'sign-in': 'sign-in',
  refuse: 'refuse',
  send: 'send',
  offer: 'offer',
  hide: null,
} as const;

/** Returns the visitors from whom a gate hides what it stands at. */
function hiddenBy({ atoms, prepared }: Explorer, { rule, groups }: Match<Gate>): number {
  const { sets } = atoms;
  const address = { path: decodeGroups(groups), query: '' };
  const { fullAccess } = prepared.site;
  const passing = rule.fullAccess && fullAccess !== null ? atoms.setOf(fullAccess, address) : NONE;
  let left = sets.not(sets.or(atoms.setOf(rule.admit, address), passing));
  let hidden = NONE;
  for (const step of rule.otherwise) {
    const those = sets.and(left, atoms.setOf(step.who, address));
    if (step.do === 'hide') hidden = sets.or(hidden, those);
    left = sets.without(left, those);
  }
  return hidden;
}
