import type { AddressProblem } from '../model/address-problem.ts';
import type { Condition } from '../model/condition.ts';
import type { Groups } from '../pattern/fill.ts';
import type { Page, Rewrite } from '../model/site.ts';
import { evaluate, type Situation } from '../condition/evaluate.ts';
import { readsOf } from '../condition/reads.ts';
import type { PreparedSite } from './prepared-site.ts';
import type { SiteAddress } from './site-address.ts';
import type { Visitor } from '../model/visitor.ts';
import type { Reason, Who } from '../model/reason.ts';

/** How one request ends. `redirect` is a hop within this site; the others can end a visit too. */
export type DecisionOutcome =
  'reach' | 'sign-in' | 'block' | 'missing' | 'away' | 'invalid' | 'redirect';

/** What stands in the answer where it is not the page itself. */
export type Content =
  | { readonly is: 'page'; readonly address: string }
  | { readonly is: 'words'; readonly text: string }
  | {
      readonly is: 'wait';
      /** What the page says besides where it leads. */
      readonly text: string | null;
      readonly seconds: number;
      readonly to: string;
    }
  | {
      readonly is: 'offers';
      /** The choices; of each, all products are needed. */
      readonly choices: readonly (readonly Offer[])[];
    };

/** A product that is sold, and where. */
export interface Offer {
  readonly product: string;
  readonly title: string;
  /** Where it is bought, or renewed. */
  readonly buyAt: string;
  /** The visitor had it until it ran out. */
  readonly isRenewal: boolean;
}

export interface Request {
  readonly method: string;
  /** A path with or without query on the site's own host, or an absolute http(s) URL. */
  readonly address: string;
  /** How the request really came, where a site is tried out at another address; that of the address otherwise. */
  readonly protocol?: 'http:' | 'https:';
}

/** The answer to one request, as plain data. */
export interface Decision {
  readonly outcome: DecisionOutcome;
  readonly status: number;
  readonly location: string | null;
  /** The address of the page, as the site file has it. */
  readonly page: string | null;
  readonly content: Content | null;
  /** What the server is asked for instead of the address; null where that is the address itself. */
  readonly served: string | null;
  readonly headers: Readonly<Record<string, string>>;
  /** The visitor is one of those who are admitted everywhere, and would not be here otherwise. */
  readonly fullAccess: boolean;
  readonly reasons: readonly Reason[];
}

/** What a stage ends a decision with. */
export interface Ending {
  readonly outcome: DecisionOutcome;
  readonly status: number;
  readonly location?: string;
  readonly content?: Content | null;
  readonly headers?: Readonly<Record<string, string>>;
  /** The answer is the same for everyone, permanently. */
  readonly permanent?: boolean;
  /** How long browsers may keep such an answer, in seconds, and the moment at which its rule ends. */
  readonly keepFor?: number | undefined;
  readonly until?: number | undefined;
  /** The rule is not for everyone: nobody may keep the answer. */
  readonly forSome?: boolean;
}

/** The page at an address, and whether it is there for this visitor now. */
export interface FoundPage {
  readonly page: Page;
  readonly groups: Groups;
  readonly exists: boolean;
  /** It is there for this visitor by full access alone. */
  readonly byFullAccess: boolean;
  readonly reason: Reason;
}

/** What an address is served from. */
export interface Served {
  readonly rewrite: Rewrite;
  /** A path with query, or a whole URL of another server. */
  readonly location: string;
  /** The address on this site, which gates look at too; null on another server. */
  readonly address: SiteAddress | null;
}

/** A decision in the making; what one stage found out, the later ones use. */
export interface DecisionContext {
  readonly prepared: PreparedSite;
  readonly request: Request;
  readonly visitor: Visitor;
  readonly at: number;
  readonly reasons: Reason[];
  readonly address: SiteAddress;
  /** Why the address can't be read; null where it can. */
  readonly problem: AddressProblem | null;
  found: FoundPage | null | undefined;
  served: Served | null;
  readsVisitor: boolean;
  readsLanguage: boolean;
  fullAccess: boolean;
  /** Answers for all visitors at once, in place of one visitor; null for a decision about one. */
  readonly answers: Answers | null;
}

/** Says whether conditions hold, where no single visitor is asked about. */
export interface Answers {
  holds(condition: Condition, situation: Situation): boolean;
}

const IS_GUEST: Condition = { is: 'guest' };

/** Whether the visitor is a guest. */
export const isGuest = (context: DecisionContext): boolean =>
  context.answers === null
    ? context.visitor.guest
    : context.answers.holds(IS_GUEST, {
        visitor: context.visitor,
        at: context.at,
        path: {},
        query: '',
      });

/** Whether a condition holds for who is asking; notes what the answer therefore depends on. */
export function holds(
  context: DecisionContext,
  condition: Condition,
  path: Readonly<Record<string, string>>,
  {
    visitor = context.visitor,
    query = context.address.query,
  }: { visitor?: Visitor; query?: string } = {},
): boolean {
  const { names } = context.prepared;
  if (condition.is !== 'anyone') {
    const reads = readsOf(condition, names);
    if (reads.visitor) context.readsVisitor = true;
    if (reads.language) context.readsLanguage = true;
  }
  const situation = { visitor, at: context.at, path, query };
  return context.answers === null
    ? evaluate(condition, situation, names)
    : context.answers.holds(condition, situation);
}

/** GET and HEAD only look; every other method asks to change something. */
export function isView(method: string): boolean {
  return method === 'GET' || method === 'HEAD';
}

/** Who asks, as reasons call them. */
export const whoIs = ({ title, summary }: Visitor): Who => ({ title, summary });
