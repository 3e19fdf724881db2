import type { Explorer } from '../explore/explorer.ts';
import { NONE } from '../explore/visitor-sets.ts';
import type { ReadableCondition } from '../model/clause.ts';
import type { Reason } from '../model/reason.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import type { FindingDraft, InspectionContext } from './finding-draft.ts';
import { isOwnAddress } from '../decision/site-address.ts';

/** A gate sends visitors to a page that they can't see either, or offers what is sold at such a page. */
export function sendsToClosed(inspected: InspectionContext): FindingDraft[] {
  const { gates } = inspected.prepared.site;
  const leading = gates.filter(({ otherwise }) =>
    otherwise.some((step) => step.do === 'send' || step.do === 'offer'),
  );
  if (leading.length === 0) return [];
  const lost = lostBy(inspected);
  return leading.flatMap((gate) =>
    [...(lost.get(gate.name) ?? [])].map(([to, { by, who }]): FindingDraft => ({
      code: 'sends-to-closed',
      severity: 'high',
      subject: { kind: 'gate', name: gate.name },
      place: gate.place,
      values: { gate: gate.name, by, to, who },
    })),
  );
}

interface Lost {
  readonly by: 'send' | 'offer';
  /** Null where there is no such page. */
  readonly who: ReadableCondition | null;
}

/** Returns the visitors who get nowhere, of those whom each gate sends to an address. */
function lostBy(inspected: InspectionContext): Map<string, Map<string, Lost>> {
  const { prepared } = inspected;
  const lost = new Map<string, Map<string, Lost>>();
  for (const [own, addresses] of addressesBehindGates(inspected)) {
    const sent = new Map<string, { gate: string; by: Lost['by']; to: string; visitors: number }>();
    const { sets } = own.atoms;
    for (const [method, address] of addresses)
      for (const { visitors, end } of own.partsOf(address, method))
        for (const reason of end.hops.flatMap(({ decision }) => decision.reasons))
          for (const { gate, by, to } of targetsOf(inspected, reason)) {
            const key = JSON.stringify([gate, to]);
            const known = sent.get(key)?.visitors ?? NONE;
            sent.set(key, { gate, by, to, visitors: sets.or(known, visitors) });
          }
    for (const { gate, by, to, visitors } of sent.values()) {
      if (!isOwnAddress(prepared, to) || lost.get(gate)?.has(to)) continue;
      const target = to.replace(/#.*$/s, '');
      const who = own.describe(sets.and(visitors, own.lostAt(target)));
      if (who === null) continue;
      const isMissing = own
        .partsOf(target)
        .every(({ end: { hops } }) =>
          hops.at(-1)!.decision.reasons.some(({ code }) => code === 'no-page'),
        );
      const ofGate = lost.get(gate) ?? new Map<string, Lost>();
      lost.set(gate, ofGate.set(to, { by, who: isMissing ? null : who }));
    }
  }
  return lost;
}

/** Returns the addresses to which the refusal of a gate leads. */
function targetsOf(
  { prepared: { site } }: InspectionContext,
  reason: Reason,
): { gate: string; by: Lost['by']; to: string }[] {
  if (reason.code !== 'not-admitted') return [];
  const { gate, then } = reason.values;
  if (then.do === 'send') return [{ gate, by: 'send', to: then.to }];
  if (then.do !== 'offer') return [];
  const titles = new Set(then.sets.flat());
  return Object.values(site.products).flatMap(({ title, buyAt }) =>
    titles.has(title) && buyAt !== null ? [{ gate, by: 'offer', to: buyAt } as const] : [],
  );
}

/** Returns the addresses of pages, and the others in the scopes of gates, by the explorer that knows their pieces. */
function addressesBehindGates({
  prepared,
  explorer,
  starts,
  familiesOf,
  reportLimit,
}: InspectionContext): Map<Explorer, (readonly [method: string, address: string])[]> {
  const { pages, gates } = prepared.site;
  const methods = gates.some(({ right }) => right === 'change') ? ['GET', 'POST'] : ['GET'];
  const found = new Map<Explorer, (readonly [string, string])[]>();
  const add = (own: Explorer, address: string): void => {
    const all = methods.map((method): readonly [string, string] => [method, address]);
    const known = found.get(own);
    if (known) known.push(...all);
    else found.set(own, all);
  };
  for (const page of pages)
    for (const family of familiesOf(page)) add(explorer.within(family), family.example);
  for (const { scopes, otherwise } of gates) {
    if (!otherwise.some((step) => step.do === 'send' || step.do === 'offer')) continue;
    try {
      // Copies: no rule is looked for near its own pattern.
      for (const { family } of starts.undeclared(
        scopes.map(({ pattern, under }) => ({ pattern: { ...pattern }, under })),
      ))
        add(explorer.within(family), family.example);
    } catch (error) {
      if (!(error instanceof TooManyCases)) throw error;
      reportLimit();
    }
  }
  return found;
}
