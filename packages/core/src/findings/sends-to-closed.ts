import { pageAt } from '../decision/page-at.ts';
import type { Explorer } from '../explore/explorer.ts';
import { NONE } from '../explore/visitor-sets.ts';
import type { ReadableCondition } from '../model/clause.ts';
import { literalOf } from '../model/pattern.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';

/** A gate sends people to a page that they can't see either: they are lost, or go round and round. */
export function sendsToClosed({ prepared, explorer }: InspectionContext): FindingDraft[] {
  const { gates } = prepared.site;
  const sending = gates.filter(({ otherwise }) => otherwise.some((step) => step.do === 'send'));
  if (sending.length === 0) return [];
  const lost = lostBy(explorer);
  return sending.flatMap((gate) =>
    gate.otherwise.flatMap((step): FindingDraft[] => {
      const who = step.do === 'send' ? lost.get(`${gate.name}\n${step.to}`) : undefined;
      if (step.do !== 'send' || !who) return [];
      const isThere = pageAt(prepared, step.to.replace(/[?#].*$/s, '')) !== null;
      return [
        {
          code: 'sends-to-closed',
          severity: 'high',
          subject: { kind: 'gate', name: gate.name },
          place: gate.place,
          values: { gate: gate.name, to: step.to, who: isThere ? who : null },
        },
      ];
    }),
  );
}

/** Who does not get anywhere, of those whom each gate sends to where. */
function lostBy(explorer: Explorer): Map<string, ReadableCondition> {
  const lost = new Map<string, ReadableCondition>();
  for (const [own, addresses] of addressesBehindGates(explorer)) {
    const sent = new Map<string, number>();
    const { sets } = own.atoms;
    for (const [method, address] of addresses)
      for (const { visitors, end } of own.partsOf(address, method))
        for (const reason of end.hops.flatMap(({ decision }) => decision.reasons)) {
          if (reason.code !== 'not-admitted' || reason.values.then.do !== 'send') continue;
          const key = `${reason.values.gate}\n${reason.values.then.to}`;
          sent.set(key, sets.or(sent.get(key) ?? NONE, visitors));
        }
    for (const [key, visitors] of sent) {
      const to = key.slice(key.indexOf('\n') + 1).replace(/#.*$/s, '');
      const who = to.startsWith('/') ? own.describe(sets.and(visitors, own.lostAt(to))) : null;
      if (who !== null && !lost.has(key)) lost.set(key, who);
    }
  }
  return lost;
}

/** All pages, and where gates stand; those with pieces apart, as what is said of these is about them only. */
function addressesBehindGates(
  explorer: Explorer,
): Map<Explorer, (readonly [method: string, address: string])[]> {
  const { pages, gates } = explorer.prepared.site;
  const methods = gates.some(({ right }) => right === 'change') ? ['GET', 'POST'] : ['GET'];
  const found = new Map<Explorer, (readonly [string, string])[]>();
  const add = (own: Explorer, address: string): void => {
    const all = methods.map((method): readonly [string, string] => [method, address]);
    const known = found.get(own);
    if (known) known.push(...all);
    else found.set(own, all);
  };
  for (const page of pages)
    for (const family of explorer.familiesOf(page)) add(explorer.within(family), family.example);
  for (const { pattern } of gates.flatMap(({ scopes }) => scopes)) {
    const literal = literalOf(pattern);
    if (literal !== null) add(explorer, literal);
  }
  return found;
}
