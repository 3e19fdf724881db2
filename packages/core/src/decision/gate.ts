import type { Address } from '../address/address.ts';
import type { Condition } from '../model/condition.ts';
import { printCondition } from '../condition/print.ts';
import type { Groups } from '../pattern/fill.ts';
import { decodePathText } from '../address/canonical-path.ts';
import { lookUp, type Match } from '../pattern/pattern-index.ts';
import type { Extent, Gate, Otherwise, Site } from '../model/site.ts';
import type { Visitor } from '../model/visitor.ts';
import { printDay } from '../time/instant.ts';
import { inWords } from '../text/list.ts';
import { called, holds, isView, type Content, type Deciding, type Ending } from './decision.ts';
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
export function gateStage(on: Deciding): Ending | null {
  const ending = gateAt(on, on.address);
  if (ending !== null || !on.served?.address) return ending;
  return gateAt(on, on.served.address);
}

/** Asks the gates at one address. */
export function gateAt(on: Deciding, { path, query }: Address): Ending | null {
  const { gates, site } = on.prepared;
  const passedOver: Reason[] = [];
  let { asked, aside } = NO_GATES;
  if (!isView(on.request.method)) {
    ({ asked, aside } = chainOf(on, lookUp(gates.change, path)));
    // A gate outside its dates has no say: who may change the page is then for the gate to view it.
    if (asked.length === 0) {
      passedOver.push(...aside);
      if (site.change === 'gated-only') {
        if (!hasFullAccess(on)) {
          on.reasons.push(UNGATED_CHANGE, ...passedOver);
          return on.visitor.guest && site.signIn !== null
            ? signIn(on)
            : { outcome: 'block', status: 403 };
        }
        on.fullAccess = true;
        on.reasons.push({
          ...UNGATED_CHANGE,
          verdict: 'admitted',
          text: `No gate admits anyone to change something here; ${called(on.visitor)} has full access and passes all the same.`,
        });
      }
    }
  }
  if (asked.length === 0) ({ asked, aside } = chainOf(on, lookUp(gates.view, path)));
  const ending = asked.length === 0 ? ungated(on, path) : askAll(on, asked, query);
  on.reasons.push(...aside, ...passedOver);
  return ending;
}

/** The gates that have a say, the nearest first, and why others at this address have none. */
interface Chain {
  readonly asked: readonly Match<Gate>[];
  readonly aside: readonly Reason[];
}
const NO_GATES: Chain = { asked: [], aside: [] };

/** The gates that have a say: the nearest, and as long as one narrows the gate above it, that one too. */
export function chainOf(
  on: Pick<Deciding, 'at' | 'prepared'>,
  matches: readonly Match<Gate>[],
): Chain {
  const asked: Match<Gate>[] = [];
  const aside: Reason[] = [];
  for (const match of matches) {
    const { rule } = match;
    const outside = whyNotNow(rule, on.at, on.prepared.site.timeZone);
    if (outside !== null) aside.push(reason(rule, 'skipped', `The gate ${rule.name} ${outside}.`));
    else if (asked.length === 0 || asked.at(-1)!.rule.narrows) asked.push(match);
    else
      aside.push(
        reason(rule, 'skipped', `The gate ${rule.name} covers this address too, and is less near.`),
      );
  }
  return { asked, aside };
}

function whyNotNow({ from, until }: Gate, at: number, timeZone: string): string | null {
  if (from !== null && at < from) return `begins on ${printDay(from, timeZone)}`;
  return until !== null && at >= until ? `ended on ${printDay(until, timeZone)}` : null;
}

/** Asks the gates from the outermost to the nearest; the first that does not admit turns away. */
function askAll(on: Deciding, asked: readonly Match<Gate>[], query: string): Ending | null {
  for (let i = asked.length - 1; i >= 0; i--) {
    const match = asked[i]!;
    const path = decoded(match.groups);
    const isAdmitted = holds(on, match.rule.admit, path, { query });
    const isPassedOver = !isAdmitted && match.rule.fullAccess && hasFullAccess(on);
    if (!isAdmitted && !isPassedOver) return turnAway(on, match, path, query);
    admit(on, match.rule, isAdmitted);
  }
  return null;
}

function ungated(on: Deciding, path: string): Ending | null {
  const { site } = on.prepared;
  const say = (reason: Reason): Reason => (path === on.address.path ? reason : SERVED.get(reason)!);
  if (site.ungated === 'open') {
    on.reasons.push(say(OPEN));
    return null;
  }
  on.readsVisitor = true;
  on.reasons.push(say(on.visitor.guest ? OUT : IN));
  if (!on.visitor.guest) return null;
  return site.signIn === null ? { outcome: 'block', status: 403 } : signIn(on);
}

function hasFullAccess(on: Deciding): boolean {
  const { fullAccess, fullAccessRight } = on.prepared.site;
  const isForThis = isView(on.request.method) || fullAccessRight === 'change';
  return fullAccess !== null && isForThis && holds(on, fullAccess, {});
}

function admit(on: Deciding, gate: Gate, isAdmitted: boolean): void {
  if (!isAdmitted) on.fullAccess = true;
  const text = isAdmitted
    ? `${ruleInWords(gate)}: ${called(on.visitor)} may ${gate.right}.`
    : `The gate ${gate.name} does not admit ${called(on.visitor)}, who has full access and passes all the same.`;
  on.reasons.push(reason(gate, 'admitted', text));
}

function turnAway(on: Deciding, { rule: gate }: Match<Gate>, path: Groups, query: string): Ending {
  const step =
    gate.otherwise.find(({ who }) => holds(on, who, path, { query })) ??
    defaultStep(on.visitor.guest, on.prepared.site);
  const because = `${ruleInWords(gate)}, and ${called(on.visitor)} is not among them`;
  const leave = (what: string): void => {
    on.reasons.push(reason(gate, 'refused', `${because}: ${what}.`));
  };
  switch (step.do) {
    case 'sign-in':
      if (on.prepared.site.signIn === null) {
        leave('refused, for the site has no page to sign in');
        return { outcome: 'block', status: 403 };
      }
      leave('asked to sign in');
      return signIn(on);
    case 'send':
      leave(`sent to ${step.to}`);
      return { outcome: 'block', status: 303, location: step.to };
    case 'hide':
      leave('told that there is no such page');
      return answerMissing(on);
    case 'offer':
      return offer(
        on,
        gate.admit,
        (visitor) => holds(on, gate.admit, path, { visitor, query }),
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
  on: Deciding,
  admit: Condition,
  admits: (visitor: Visitor) => boolean,
  leave: (what: string) => void,
): Ending {
  const { site, names } = on.prepared;
  const choices = smallestOffers(site.products, admit, names, on.visitor, admits);
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

function signIn(on: Deciding): Ending {
  on.readsVisitor = true;
  return { outcome: 'sign-in', status: 303, location: signInLocation(on.prepared, on.address) };
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
    words = `The gate ${gate.name} on ${inWords(gate.extents.map(printExtent))} admits ${printCondition(gate.admit)}`;
    inWordsOf.set(gate, words);
  }
  return words;
}

const printExtent = ({ pattern, under }: Extent): string =>
  under ? `${pattern.text} and all beneath it` : pattern.text;

const reason = (gate: Gate, verdict: Reason['verdict'], text: string): Reason => ({
  stage: 'gate',
  rule: `gate ${gate.name}`,
  verdict,
  text,
  place: gate.place,
});
