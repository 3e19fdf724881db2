import type { PreparedSite } from '../decision/prepared-site.ts';
import type { ExpectedVisit } from '../model/expected-visit.ts';
import { inWords } from '../text/list.ts';
import { printInstant } from '../time/instant.ts';
import { redirectsOf, visit, type Outcome } from '../visit/visit.ts';

/** An expected visit, and whether it ended as expected. */
export interface MadeVisit {
  /** Its place in the site file, such as `#1`. */
  readonly name: string;
  /** Who asks for what, as a phrase. */
  readonly words: string;
  readonly isAsExpected: boolean;
  /** How it ended, and what was expected where that differs. */
  readonly message: string;
  readonly outcome: Outcome;
  readonly status: number;
  readonly final: string;
  readonly hops: number;
  readonly note: string | null;
  readonly line: number;
  readonly column: number;
}

/**
 * Makes the visits that a site file expects.
 *
 * @param now the moment of those that name none, in milliseconds since 1970
 */
export function expectedVisits(prepared: PreparedSite, now: number): MadeVisit[] {
  return prepared.site.visits.map((expected): MadeVisit => {
    const { name, method, address, visitor, at, note, place } = expected;
    const made = visit(prepared, { method, address }, visitor, at ?? now);
    const [{ outcome, status, final }, hops] = [made, redirectsOf(made)];
    const ended = { outcome, status, final, hops };
    // The query of an address, such as a return address, matters where it is written.
    const compared = expected.final?.includes('?') ? ended : { ...ended, final: pathOf(final) };
    const wrong = EXPECTED.filter(
      (field) => expected[field] !== null && expected[field] !== compared[field],
    );
    const when = at === null ? '' : ` on ${printInstant(at).replace(/\.\d+/, '')}`;
    return {
      name,
      words: `${method} ${address} by ${visitor.title} (${visitor.summary})${when}`,
      isAsExpected: wrong.length === 0,
      message: `It ends as ${outcome} (${status}) at ${final}, after ${redirects(hops)}${
        wrong.length === 0 ? '' : `; expected ${inWords(wrong.map((one) => told(expected, one)))}`
      }.`,
      ...ended,
      note,
      ...place,
    };
  });
}

const pathOf = (address: string): string => address.split('?', 1)[0]!;

/** What can be expected of a visit. */
const EXPECTED = ['outcome', 'status', 'final', 'hops'] as const;

const redirects = (count: number): string =>
  count === 0 ? 'no redirect' : count === 1 ? 'one redirect' : `${count} redirects`;

const told = (expected: ExpectedVisit, field: (typeof EXPECTED)[number]): string =>
  field === 'hops'
    ? redirects(expected.hops!)
    : `${field === 'final' ? 'the final address' : `the ${field}`} ${expected[field]}`;
