import type { Address } from '../address/address.ts';
import type { Condition } from '../model/condition.ts';
import { printCondition } from '../condition/print.ts';
import type { Groups } from '../pattern/fill.ts';
import { decodePathText } from '../address/canonical-path.ts';
import { lookUp, type Match } from '../pattern/pattern-index.ts';
import type { Scope, Gate, Otherwise, Site } from '../model/site.ts';
import type { Visitor } from '../model/visitor.ts';
import { printDay } from '../time/instant.ts';
import { inWords } from '../text/list.ts';
import {
  called,
  holds,
  isView,
  type Content,
  type DecisionContext,
  type Ending,
} from './decision.ts';
import type { Reason } from './reason.ts';
import { answerMissing } from './not-found.ts';
import { smallestOffers } from './offer.ts';
import { signInLocation } from './sign-in.ts';

const OPEN: Reason = {
  stage: 'gate',
  rule: null,
  verdict: 'passed',
  text: 'No gate covers this address, and pages without one are open.',
  place: null,
};
const IN: Reason = {
  ...OPEN,
  text: 'No gate covers this address: whoever is signed in may see it.',
};
const OUT: Reason = {
  ...OPEN,
  verdict: 'refused',
  text: 'No gate covers this address, and pages without one are closed to guests.',
};
/** The same, said of the address that another one is served from. */
const servedFrom = (reason: Reason): Reason => ({
  ...reason,
  text: reason.text.replace('this address', 'the address that it is served from'),
});
const SERVED: ReadonlyMap<Reason, Reason> = new Map(
  [OPEN, IN, OUT].map((reason) => [reason, servedFrom(reason)]),
);
const UNGATED_CHANGE: Reason = {
  ...OPEN,
  verdict: 'refused',
  text: 'No gate admits anyone to change something here.',
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
export function gateAt(context: DecisionContext, { path, query }: Address): Ending | null {
  const { gates, site } = context.prepared;
  const passedOver: Reason[] = [];
  let { effectiveGates: asked, skipped: aside } = NO_GATES;
  if (!isView(context.request.method)) {
    ({ effectiveGates: asked, skipped: aside } = gateChainAt(context, lookUp(gates.change, path)));
    // A gate outside its dates has no say: who may change the page is then for the gate to view it.
    if (asked.length === 0) {
      passedOver.push(...aside);
      if (site.change === 'gated-only') {
        if (!hasFullAccess(context)) {
          context.reasons.push(UNGATED_CHANGE, ...passedOver);
          return context.visitor.guest && site.signIn !== null
            ? signIn(context)
            : { outcome: 'block', status: 403 };
        }
        context.fullAccess = true;
        context.reasons.push({
          ...UNGATED_CHANGE,
          verdict: 'admitted',
          text: `No gate admits anyone to change something here; ${called(context.visitor)} has full access and passes all the same.`,
        });
      }
    }
  }
  if (asked.length === 0)
    ({ effectiveGates: asked, skipped: aside } = gateChainAt(context, lookUp(gates.view, path)));
  const ending = asked.length === 0 ? ungated(context, path) : askAll(context, asked, query);
  context.reasons.push(...aside, ...passedOver);
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
  const asked: Match<Gate>[] = [];
  const aside: Reason[] = [];
  for (const match of matches) {
    const { rule } = match;
    const outside = skipReasonNow(rule, context.at, context.prepared.site.timeZone);
    if (outside !== null) aside.push(reason(rule, 'skipped', `The gate ${rule.name} ${outside}.`));
    else if (asked.length === 0 || asked.at(-1)!.rule.narrows) asked.push(match);
    else
      aside.push(
        reason(rule, 'skipped', `The gate ${rule.name} covers this address too, and is less near.`),
      );
  }
  return { effectiveGates: asked, skipped: aside };
}

function skipReasonNow(
  { validFrom: from, validUntil: until }: Gate,
  at: number,
  timeZone: string,
): string | null {
  if (from !== null && at < from) return `begins on ${printDay(from, timeZone)}`;
  return until !== null && at >= until ? `ended on ${printDay(until, timeZone)}` : null;
}

/** Asks the gates from the outermost to the nearest; the first that does not admit turns away. */
function askAll(
  context: DecisionContext,
  asked: readonly Match<Gate>[],
  query: string,
): Ending | null {
  for (let i = asked.length - 1; i >= 0; i--) {
    const match = asked[i]!;
    const path = decoded(match.groups);
    const isAdmitted = holds(context, match.rule.admit, path, { query });
    const isPassedOver = !isAdmitted && match.rule.fullAccess && hasFullAccess(context);
    if (!isAdmitted && !isPassedOver) return turnAway(context, match, path, query);
    admit(context, match.rule, isAdmitted);
  }
  return null;
}

function ungated(context: DecisionContext, path: string): Ending | null {
  const { site } = context.prepared;
  const say = (reason: Reason): Reason =>
    path === context.address.path ? reason : SERVED.get(reason)!;
  if (site.ungated === 'open') {
    context.reasons.push(say(OPEN));
    return null;
  }
  context.readsVisitor = true;
  context.reasons.push(say(context.visitor.guest ? OUT : IN));
  if (!context.visitor.guest) return null;
  return site.signIn === null ? { outcome: 'block', status: 403 } : signIn(context);
}

function hasFullAccess(context: DecisionContext): boolean {
  const { fullAccess, fullAccessRight } = context.prepared.site;
  const isForThis = isView(context.request.method) || fullAccessRight === 'change';
  return fullAccess !== null && isForThis && holds(context, fullAccess, {});
}

function admit(context: DecisionContext, gate: Gate, isAdmitted: boolean): void {
  if (!isAdmitted) context.fullAccess = true;
  const text = isAdmitted
    ? `${ruleInWords(gate)}: ${called(context.visitor)} may ${gate.right}.`
    : `The gate ${gate.name} does not admit ${called(context.visitor)}, who has full access and passes all the same.`;
  context.reasons.push(reason(gate, 'admitted', text));
}

function turnAway(
  context: DecisionContext,
  { rule: gate }: Match<Gate>,
  path: Groups,
  query: string,
): Ending {
  const step =
    gate.otherwise.find(({ who }) => holds(context, who, path, { query })) ??
    defaultStep(context.visitor.guest, context.prepared.site);
  const because = `${ruleInWords(gate)}, and ${called(context.visitor)} is not among them`;
  const leave = (what: string): void => {
    context.reasons.push(reason(gate, 'refused', `${because}: ${what}.`));
  };
  switch (step.do) {
    case 'sign-in':
      if (context.prepared.site.signIn === null) {
        leave('refused, for the site has no page to sign in');
        return { outcome: 'block', status: 403 };
      }
      leave('asked to sign in');
      return signIn(context);
    case 'send':
      leave(`sent to ${step.to}`);
      return { outcome: 'block', status: 303, location: step.to };
    case 'hide':
      leave('told that there is no such page');
      return answerMissing(context);
    case 'offer':
      return offer(
        context,
        gate.admit,
        (visitor) => holds(context, gate.admit, path, { visitor, query }),
        leave,
      );
    case 'refuse':
      leave('refused');
      return { outcome: 'block', status: 403, content: contentOf(step) };
  }
}

function defaultStep(guest: boolean, site: Site): Otherwise {
  const who = { is: 'anyone' } as const;
  return guest && site.signIn !== null
    ? { who, do: 'sign-in' }
    : { who, do: 'refuse', say: null, show: null };
}

function contentOf({ show, say }: { show: string | null; say: string | null }): Content | null {
  if (show !== null) return { is: 'page', address: show };
  return say === null ? null : { is: 'words', text: say };
}

/** Leads to where the products that would admit are sold: straight there when it is one. */
function offer(
  context: DecisionContext,
  admit: Condition,
  admits: (visitor: Visitor) => boolean,
  leave: (what: string) => void,
): Ending {
  const { site, names } = context.prepared;
  const choices = smallestOffers(site.products, admit, names, context.visitor, admits);
  const [only] = choices;
  if (only === undefined) {
    leave('refused, for nothing that is sold would admit');
    return { outcome: 'block', status: 403 };
  }
  const together = choices.map((set) => inWords(set.map(({ title }) => title)));
  leave(`offered ${inWords(together, 'or')}`);
  return choices.length === 1 && only.length === 1
    ? { outcome: 'block', status: 303, location: only[0]!.buyAt }
    : { outcome: 'block', status: 403, content: { is: 'offers', choices } };
}

function signIn(context: DecisionContext): Ending {
  context.readsVisitor = true;
  return {
    outcome: 'sign-in',
    status: 303,
    location: signInLocation(context.prepared, context.address),
  };
}

function decoded(groups: Groups): Groups {
  return Object.fromEntries(
    Object.entries(groups).map(([name, value]) => [name, decodePathText(value)]),
  );
}

const inWordsOf = new WeakMap<Gate, string>();

/** “The gate crew-room on /crew and all beneath it admits crew”; said of a gate in most decisions. */
function ruleInWords(gate: Gate): string {
  let words = inWordsOf.get(gate);
  if (words === undefined) {
    words = `The gate ${gate.name} on ${inWords(gate.scopes.map(printExtent))} admits ${printCondition(gate.admit)}`;
    inWordsOf.set(gate, words);
  }
  return words;
}

const printExtent = ({ pattern, under }: Scope): string =>
  under ? `${pattern.text} and all beneath it` : pattern.text;

const reason = (gate: Gate, verdict: Reason['verdict'], text: string): Reason => ({
  stage: 'gate',
  rule: `gate ${gate.name}`,
  verdict,
  text,
  place: gate.place,
});
