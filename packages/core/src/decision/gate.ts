import type { SiteAddress } from './site-address.ts';
import type { Condition } from '../model/condition.ts';
import type { Visitor } from '../model/visitor.ts';
import { isHiddenAlias } from './concealment.ts';
import { holds, isGuest, type Content, type DecisionContext, type Ending } from './decision.ts';
import { gateReason, judge, type Refusal } from './gates.ts';
import type { TurnedAway } from '../model/reason.ts';
import { answerMissing, hide } from './not-found.ts';
import { smallestOffers } from './offer.ts';
import { withReturnAddress } from './return-address.ts';

/**
 * Asks the nearest gate for this right whether the visitor is admitted: at the address asked for, and
 * where that is served from another one, there too. An alias is as hidden as its page.
 */
export function gateStage(context: DecisionContext): Ending | null {
  const ending = gateAt(context, context.address);
  if (ending !== null) return ending;
  if (context.served !== null)
    return context.served.address === null ? null : gateAt(context, context.served.address);
  return context.address.isHome && isHiddenAlias(context, context.address) ? hide(context) : null;
}

function gateAt(context: DecisionContext, address: SiteAddress): Ending | null {
  const { refusal, skipped } = judge(context, address);
  const ending = refusal === null ? null : turnAway(context, refusal, address.query);
  for (const one of skipped) context.reasons.push(one);
  return ending;
}

function turnAway(context: DecisionContext, refusal: Refusal, query: string): Ending {
  if (refusal.by === 'ungated')
    return isGuest(context) && context.prepared.site.signIn !== null
      ? signIn(context)
      : { outcome: 'block', status: 403 };
  const { match, path, step } = refusal;
  const gate = match.rule;
  const leave = (then: TurnedAway): void => {
    const { name, scopes, admit } = gate;
    const { title, summary } = context.visitor;
    const values = { gate: name, scopes, admit, title, summary, then };
    context.reasons.push(gateReason(gate, 'refused', { code: 'not-admitted', values }));
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
  // Nobody has to buy what signing in alone opens.
  if (site.signIn !== null && isGuest(context) && admits({ ...context.visitor, guest: false })) {
    leave({ do: 'sign-in' });
    return signIn(context);
  }
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
