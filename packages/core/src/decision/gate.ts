import type { SiteAddress } from './site-address.ts';
import type { Condition } from '../model/condition.ts';
import { decodeGroups, type Groups } from '../pattern/fill.ts';
import type { Match } from '../pattern/pattern-index.ts';
import type { Gate, Otherwise, Site } from '../model/site.ts';
import type { Visitor } from '../model/visitor.ts';
import {
  whoIs,
  holds,
  isView,
  type Content,
  type DecisionContext,
  type Ending,
  isGuest,
} from './decision.ts';
import type { Reason, Told, TurnedAway } from '../model/reason.ts';
import { answerMissing } from './not-found.ts';
import { smallestOffers } from './offer.ts';
import { outsidePeriod } from './outside-period.ts';
import { tell } from './tell.ts';
import { withReturnAddress } from './return-address.ts';

/** What is said where no gate covers an address, or the one that it is served from. */
const ungatedReasons = (isServed: boolean) => {
  const passed: Reason = {
    stage: 'gate',
    rule: null,
    verdict: 'passed',
    code: 'ungated-open',
    values: { isServed },
    place: null,
  };
  const signedIn: Reason = { ...passed, code: 'ungated-signed-in', values: { isServed } };
  const closed: Reason = { ...signedIn, verdict: 'refused', code: 'ungated-closed' };
  return { open: passed, signedIn, closed };
};
const UNGATED = ungatedReasons(false);
const UNGATED_SERVED = ungatedReasons(true);
const UNGATED_CHANGE: Reason = {
  stage: 'gate',
  rule: null,
  verdict: 'refused',
  code: 'ungated-change',
  values: {},
  place: null,
};

/**
 * Asks the nearest gate for this right whether the visitor is admitted: at the address asked for, and
 * where that is served from another one, there too.
 */
export function gateStage(context: DecisionContext): Ending | null {
  const ending = gateAt(context, context.address);
  if (ending !== null || !context.served?.address) return ending;
  return gateAt(context, context.served.address);
}

/** Asks the gates at one address. */
export function gateAt(context: DecisionContext, address: SiteAddress): Ending | null {
  const { site } = context.prepared;
  const passedOver: Reason[] = [];
  let { effectiveGates, skipped } = NO_GATES;
  if (!isView(context.request.method)) {
    ({ effectiveGates, skipped } = gateChainAt(context, address.gates('change')));
    // A gate outside its dates has no say: who may change the page is then for the gate to view it.
    if (effectiveGates.length === 0) {
      passedOver.push(...skipped);
      if (site.change === 'gated-only') {
        if (!hasFullAccess(context)) {
          context.reasons.push(UNGATED_CHANGE, ...passedOver);
          return isGuest(context) && site.signIn !== null
            ? signIn(context)
            : { outcome: 'block', status: 403 };
        }
        context.fullAccess = true;
        context.reasons.push({
          ...UNGATED_CHANGE,
          verdict: 'admitted',
          code: 'ungated-change-by-full-access',
          values: whoIs(context.visitor),
        });
      }
    }
  }
  if (effectiveGates.length === 0)
    ({ effectiveGates, skipped } = gateChainAt(context, address.gates('view')));
  const ending =
    effectiveGates.length === 0
      ? ungated(context, address.path)
      : askAll(context, effectiveGates, address.query);
  for (const one of skipped) context.reasons.push(one);
  for (const one of passedOver) context.reasons.push(one);
  return ending;
}

/** The gates that have a say, the nearest first, and why others at this address have none. */
interface GateChain {
  readonly effectiveGates: readonly Match<Gate>[];
  readonly skipped: readonly Reason[];
}
const NO_GATES: GateChain = { effectiveGates: [], skipped: [] };

/** The gates that have a say: the nearest, and as long as one narrows the gate above it, that one too. */
export function gateChainAt(
  context: Pick<DecisionContext, 'at' | 'prepared'>,
  matches: readonly Match<Gate>[],
): GateChain {
  if (matches.length === 0) return NO_GATES;
  const effectiveGates: Match<Gate>[] = [];
  const skipped: Reason[] = [];
  for (const match of matches) {
    const { rule } = match;
    const outside = outsidePeriod({ kind: 'gate', name: rule.name }, rule, context.at);
    if (outside !== null) skipped.push(reason(rule, 'skipped', outside));
    else if (effectiveGates.length === 0 || effectiveGates.at(-1)!.rule.narrows)
      effectiveGates.push(match);
    else skipped.push(reason(rule, 'skipped', { code: 'less-near', values: { gate: rule.name } }));
  }
  return { effectiveGates, skipped };
}

/** Asks the gates from the outermost to the nearest; the first that does not admit turns away. */
function askAll(
  context: DecisionContext,
  effectiveGates: readonly Match<Gate>[],
  query: string,
): Ending | null {
  for (let i = effectiveGates.length - 1; i >= 0; i--) {
    const match = effectiveGates[i]!;
    const path = decodeGroups(match.groups);
    const isAdmitted = holds(context, match.rule.admit, path, { query });
    const isPassedOver = !isAdmitted && match.rule.fullAccess && hasFullAccess(context);
    if (!isAdmitted && !isPassedOver) return turnAway(context, match, path, query);
    admit(context, match.rule, isAdmitted);
  }
  return null;
}

function ungated(context: DecisionContext, path: string): Ending | null {
  const { site } = context.prepared;
  const reasons = path === context.address.path ? UNGATED : UNGATED_SERVED;
  if (site.ungated === 'open') {
    context.reasons.push(reasons.open);
    return null;
  }
  context.readsVisitor = true;
  const guest = isGuest(context);
  context.reasons.push(guest ? reasons.closed : reasons.signedIn);
  if (!guest) return null;
  return site.signIn === null ? { outcome: 'block', status: 403 } : signIn(context);
}

function hasFullAccess(context: DecisionContext): boolean {
  const { fullAccess, fullAccessRight } = context.prepared.site;
  const isForThis = isView(context.request.method) || fullAccessRight === 'change';
  return fullAccess !== null && isForThis && holds(context, fullAccess, {});
}

function admit(context: DecisionContext, gate: Gate, isAdmitted: boolean): void {
  if (!isAdmitted) context.fullAccess = true;
  const { name, scopes, admit, right } = gate;
  const { title, summary } = context.visitor;
  context.reasons.push(
    reason(
      gate,
      'admitted',
      isAdmitted
        ? { code: 'admitted', values: { gate: name, scopes, admit, title, summary, right } }
        : { code: 'admitted-by-full-access', values: { gate: name, title, summary } },
    ),
  );
}

function turnAway(
  context: DecisionContext,
  { rule: gate }: Match<Gate>,
  path: Groups,
  query: string,
): Ending {
  const step =
    gate.otherwise.find(({ who }) => holds(context, who, path, { query })) ??
    defaultStep(isGuest(context), context.prepared.site);
  const leave = (then: TurnedAway): void => {
    const { name, scopes, admit } = gate;
    const { title, summary } = context.visitor;
    const values = { gate: name, scopes, admit, title, summary, then };
    context.reasons.push(reason(gate, 'refused', { code: 'not-admitted', values }));
  };
  switch (step.do) {
    case 'sign-in':
      if (context.prepared.site.signIn === null) {
        leave({ do: 'no-sign-in-page' });
        return { outcome: 'block', status: 403 };
      }
      leave({ do: 'sign-in' });
      return signIn(context);
    case 'send':
      leave({ do: 'send', to: step.to });
      return { outcome: 'block', status: 303, location: step.to };
    case 'hide':
      leave({ do: 'hide' });
      return answerMissing(context);
    case 'offer':
      return offer(
        context,
        gate.admit,
        (visitor) => holds(context, gate.admit, path, { visitor, query }),
        leave,
      );
    case 'refuse':
      leave({ do: 'refuse' });
      return { outcome: 'block', status: 403, content: contentOf(step) };
  }
}

/** What happens to those of whom a gate says nothing. */
export function defaultStep(guest: boolean, site: Site): Otherwise {
  const who = { is: 'anyone' } as const;
  return guest && site.signIn !== null
    ? { who, do: 'sign-in' }
    : { who, do: 'refuse', say: null, show: null };
}

function contentOf({ show, say }: { show: string | null; say: string | null }): Content | null {
  if (show !== null) return { is: 'page', address: show };
  return say === null ? null : { is: 'words', text: say };
}

/** Redirects to where the products that would admit are sold: straight there when it is one. */
function offer(
  context: DecisionContext,
  admit: Condition,
  admits: (visitor: Visitor) => boolean,
  leave: (then: TurnedAway) => void,
): Ending {
  const { site, names } = context.prepared;
  const offers = smallestOffers(site.products, admit, names, context.visitor, admits, (condition) =>
    holds(context, condition, {}),
  );
  const [only] = offers;
  if (only === undefined) {
    leave({ do: 'nothing-sold' });
    return { outcome: 'block', status: 403 };
  }
  // The shop takes whoever has bought back to what they wanted.
  const choices = offers.map((set) =>
    set.map((one) => ({
      ...one,
      buyAt: withReturnAddress(context.prepared, one.buyAt, context.address),
    })),
  );
  leave({ do: 'offer', sets: choices.map((set) => set.map(({ title }) => title)) });
  return choices.length === 1 && only.length === 1
    ? { outcome: 'block', status: 303, location: choices[0]![0]!.buyAt }
    : { outcome: 'block', status: 403, content: { is: 'offers', choices } };
}

function signIn(context: DecisionContext): Ending {
  context.readsVisitor = true;
  return {
    outcome: 'sign-in',
    status: 303,
    location: withReturnAddress(context.prepared, context.prepared.site.signIn!, context.address),
  };
}

const reason = (gate: Gate, verdict: Reason['verdict'], told: Told): Reason =>
  tell('gate', `gate ${gate.name}`, verdict, told, gate.place);
