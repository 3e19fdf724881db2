import type { PreparedSite } from '../decision/prepared-site.ts';
import { Atoms } from '../explore/atoms.ts';
import { proveGuarantees, type Verdict, type Witness } from '../guarantees/prove.ts';
import type { Reason } from '../model/reason.ts';
import { printInstant } from '../time/instant.ts';
import type { Outcome } from '../visit/visit.ts';
import { productTitles } from '../wording/condition.ts';
import { describeGuarantee } from '../wording/guarantee.ts';
import { describeReason } from '../wording/reason.ts';
import { declaredVisitor } from '../explore/declared-visitor.ts';
import { wordsOf } from './read-condition.ts';

/** A visit that shows that a guarantee does not hold; it can be made again. */
export interface ListedWitness {
  /** As a site file and a request declare one. */
  readonly visitor: Readonly<Record<string, unknown>>;
  /** What makes them who they are. */
  readonly summary: string;
  readonly method: string;
  readonly address: string;
  readonly at: string;
  readonly outcome: Outcome;
  readonly status: number;
  readonly final: string;
  /** The rule that is responsible, its sentence and its line; null where none is. */
  readonly rule: { readonly name: string; readonly says: string; readonly line: number } | null;
}

/** A guarantee, and what is true of it. */
export interface ListedGuarantee {
  /** Its place in the site file, such as `#1`. */
  readonly name: string;
  /** What it demands, as a sentence. */
  readonly words: string;
  readonly note: string | null;
  readonly is: Verdict['is'];
  /** What was found, as a sentence. */
  readonly message: string;
  readonly witness: ListedWitness | null;
  readonly line: number;
  readonly column: number;
}

/**
 * The guarantees of a site with their proofs and witnesses, in the order of the site file.
 *
 * @param at the moment from which on they are to hold, in milliseconds since 1970
 */
export function guaranteeList(prepared: PreparedSite, at: number): ListedGuarantee[] {
  const { products, timeZone } = prepared.site;
  const titles = productTitles(products);
  const atoms = new Atoms(prepared.names);
  return proveGuarantees(prepared, at).map((verdict): ListedGuarantee => {
    const { guarantee, is } = verdict;
    const { name, who, note, place } = guarantee;
    const witness = is === 'refuted' ? listed(verdict.witness, timeZone) : null;
    return {
      name,
      words: describeGuarantee(guarantee, wordsOf(who, atoms, titles), timeZone),
      note,
      is,
      message: witness ? broken(witness) : settled(verdict),
      witness,
      ...place,
    };
  });
}

function settled(verdict: Verdict): string {
  if (verdict.is !== 'proved')
    return 'There are more cases than can be told apart, so that it could not be proved.';
  const { families, stretches } = verdict;
  if (stretches === 0) return 'Its time is over.';
  const times = stretches === 1 ? '' : `, for each of ${stretches} stretches of time`;
  return `Proved for every visitor, at ${families} ${families === 1 ? 'kind' : 'kinds'} of addresses${times}.`;
}

const broken = ({
  summary,
  method,
  address,
  at,
  outcome,
  status,
  final,
  rule,
}: ListedWitness): string =>
  [
    `Broken: ${method === 'GET' ? '' : `${method} `}${address} by ${summary === 'guest' ? 'a guest' : `someone (${summary})`}, on ${at.replace(/\.\d+/, '')}, ends as ${outcome} (${status}${final === address ? '' : ` at ${final}`}).`,
    ...(rule ? [rule.says] : []),
  ].join(' ');

function listed({ visitor, method, address, at, end }: Witness, timeZone: string): ListedWitness {
  const reasons = end.hops
    .flatMap(({ decision }) => decision.reasons)
    .filter(({ rule, verdict }) => rule !== null && verdict !== 'skipped');
  // A gate decides who is let in or turned away; where no gate was asked, the last other rule does.
  const reason =
    reasons.findLast(({ stage }) => stage === 'gate') ??
    reasons.findLast(({ stage }) => RULES.includes(stage));
  return {
    visitor: declaredVisitor(visitor),
    summary: visitor.summary,
    method,
    address,
    at: printInstant(at),
    outcome: end.outcome,
    status: end.status,
    final: end.final,
    rule: reason?.place
      ? { name: reason.rule!, says: describeReason(reason, timeZone), line: reason.place.line }
      : null,
  };
}

/** The other stages at which rules decide whether someone gets somewhere. */
const RULES: readonly Reason['stage'][] = ['redirect', 'rewrite', 'page'];
