import type { SiteAddress } from './site-address.ts';
import { decodeGroups, type Groups } from '../pattern/fill.ts';
import type { Match } from '../pattern/pattern-index.ts';
import type { Gate, Otherwise, Right, Site } from '../model/site.ts';
import { whoIs, holds, isView, type DecisionContext, isGuest } from './decision.ts';
import type { Reason, Told } from '../model/reason.ts';
import { isInForce } from '../time/period.ts';
import { outsidePeriod } from './outside-period.ts';
import { tell } from './tell.ts';

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

/** Why a visitor is turned away at an address. */
export type Refusal =
  | {
      readonly by: 'gate';
      readonly match: Match<Gate>;
      readonly path: Groups;
      readonly step: Otherwise;
    }
  | { readonly by: 'ungated' };

/** The judgement of the gates at an address. */
export interface Judgement {
  /** Null where the visitor is admitted. */
  readonly refusal: Refusal | null;
  /** Why other gates at the address have no say. */
  readonly skipped: readonly Reason[];
}

const UNGATED_REFUSAL: Refusal = { by: 'ungated' };
const ADMITTED: Judgement = { refusal: null, skipped: [] };
const UNGATED_REFUSED: Judgement = { refusal: UNGATED_REFUSAL, skipped: [] };

/** Asks the gates at one address. Adds the reasons of an admission; the caller adds those of a refusal. */
export function judge(context: DecisionContext, address: SiteAddress): Judgement {
  let passedOver: readonly Reason[] = [];
  if (!isView(context.request.method)) {
    const { effectiveGates, skipped } = gateChainAt(context, address.gates('change'));
    if (effectiveGates.length > 0) {
      const refusal = askAll(context, effectiveGates, address, 'change');
      return { refusal, skipped };
    }
    // A gate outside its dates has no say: the gate to view the page then says who may change it.
    passedOver = skipped;
    if (context.prepared.site.change === 'gated-only') {
      if (!hasFullAccess(context)) {
        context.reasons.push(UNGATED_CHANGE);
        return { refusal: UNGATED_REFUSAL, skipped };
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
  const { effectiveGates, skipped } = gateChainAt(context, address.gates('view'));
  const others = passedOver.length === 0 ? skipped : [...skipped, ...passedOver];
  if (effectiveGates.length > 0)
    return { refusal: askAll(context, effectiveGates, address, 'view'), skipped: others };
  const isRefused = ungated(context, address.path);
  if (others.length > 0) return { refusal: isRefused ? UNGATED_REFUSAL : null, skipped: others };
  return isRefused ? UNGATED_REFUSED : ADMITTED;
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
    if (outside !== null) skipped.push(gateReason(rule, 'skipped', outside));
    else if (effectiveGates.length === 0 || effectiveGates.at(-1)!.rule.narrows)
      effectiveGates.push(match);
    else
      skipped.push(gateReason(rule, 'skipped', { code: 'less-near', values: { gate: rule.name } }));
  }
  return { effectiveGates, skipped };
}

/** Asks the gates from the outermost to the nearest; returns the refusal of the first that does not admit. */
function askAll(
  context: DecisionContext,
  effectiveGates: readonly Match<Gate>[],
  address: SiteAddress,
  right: Right,
): Refusal | null {
  for (let i = effectiveGates.length - 1; i >= 0; i--) {
    const match = effectiveGates[i]!;
    const path = decodeGroups(match.groups);
    const isAdmitted = holds(context, match.rule.admit, path, { query: address.query });
    if (!isAdmitted && !(match.rule.fullAccess && hasFullAccess(context)))
      return { by: 'gate', match, path, step: stepOf(context, match, path, address, right) };
    admit(context, match.rule, isAdmitted);
  }
  return null;
}

const HIDE: Otherwise = { who: { is: 'anyone' }, do: 'hide' };

/**
 * Returns what happens to a visitor whom a gate does not admit. A gate that says
 * nothing of them inside a section that hides itself from them hides too. A page that is hidden from view is hidden
 * from every other method.
 */
function stepOf(
  context: DecisionContext,
  { rule }: Match<Gate>,
  path: Groups,
  address: SiteAddress,
  right: Right,
): Otherwise {
  const { query } = address;
  if (right === 'change' && isHiddenFromView(context, address)) return HIDE;
  const step = rule.otherwise.find(({ who }) => holds(context, who, path, { query }));
  if (step !== undefined) return step;
  const isWithin = address.gates(right).some((outer) => isHiddenBy(context, outer, rule, query));
  return isWithin ? HIDE : defaultStep(isGuest(context), context.prepared.site);
}

function isHiddenFromView(context: DecisionContext, address: SiteAddress): boolean {
  const request = { ...context.request, method: 'GET' };
  const { refusal } = judge({ ...context, request, reasons: [] }, address);
  return isHiding(refusal);
}

/** Whether a refusal hides the address. */
export const isHiding = (refusal: Refusal | null): boolean =>
  refusal?.by === 'gate' && refusal.step.do === 'hide';

/** Whether a gate around another one hides its section from the visitor. */
function isHiddenBy(
  context: DecisionContext,
  { rule, groups }: Match<Gate>,
  inner: Gate,
  query: string,
): boolean {
  const canHide = rule.otherwise.some((step) => step.do === 'hide');
  if (rule === inner || !canHide || !isInForce(rule, context.at)) return false;
  const path = decodeGroups(groups);
  if (holds(context, rule.admit, path, { query }) || (rule.fullAccess && hasFullAccess(context)))
    return false;
  return rule.otherwise.find(({ who }) => holds(context, who, path, { query }))?.do === 'hide';
}

/** Whether the visitor is turned away where no gate is. */
function ungated(context: DecisionContext, path: string): boolean {
  const { site } = context.prepared;
  const reasons = path === context.address.path ? UNGATED : UNGATED_SERVED;
  if (site.ungated === 'open') {
    context.reasons.push(reasons.open);
    return false;
  }
  context.readsVisitor = true;
  const guest = isGuest(context);
  context.reasons.push(guest ? reasons.closed : reasons.signedIn);
  return guest;
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
    gateReason(
      gate,
      'admitted',
      isAdmitted
        ? { code: 'admitted', values: { gate: name, scopes, admit, title, summary, right } }
        : { code: 'admitted-by-full-access', values: { gate: name, title, summary } },
    ),
  );
}

/** What happens to those of whom a gate says nothing. */
export function defaultStep(guest: boolean, site: Site): Otherwise {
  const who = { is: 'anyone' } as const;
  return guest && site.signIn !== null
    ? { who, do: 'sign-in' }
    : { who, do: 'refuse', say: null, show: null };
}

/** A reason that a gate gives. */
export const gateReason = (gate: Gate, verdict: Reason['verdict'], told: Told): Reason =>
  tell('gate', `gate ${gate.name}`, verdict, told, gate.place);
