import { normalizePath } from '../address/tidy.ts';
import { defaultStep } from '../decision/gates.ts';
import type { PreparedSite } from '../decision/prepared-site.ts';
import { Atoms } from '../explore/atoms.ts';
import { Explorer } from '../explore/explorer.ts';
import { literalOf } from '../model/pattern.ts';
import type { Gate, Otherwise, Right, Site } from '../model/site.ts';
import { rulesAt } from '../pattern/pattern-index.ts';
import { isInForce } from '../time/period.ts';
import { productTitles } from '../wording/condition.ts';
import { describeOtherwise } from '../wording/otherwise.ts';
import { printScope } from '../wording/reason.ts';
import { wordsOf } from './read-condition.ts';

/** A gate as it is read: where it stands, whom it admits, what happens to everyone else, and what is around it. */
export interface ListedGate {
  readonly name: string;
  readonly right: Right;
  /** Such as `/crew and all beneath it`. */
  readonly scopes: readonly string[];
  /** Whom it admits, in words. */
  readonly admits: string;
  /** What happens to those whom it does not admit; the first that fits someone counts. */
  readonly otherwise: readonly { readonly who: string; readonly what: string }[];
  /** The gate above must admit too. */
  readonly narrows: boolean;
  /** Whether full access passes. */
  readonly fullAccess: boolean;
  /** Whether it is in force at the moment that is asked about. */
  readonly isInForce: boolean;
  /** The gates above it, at some page that it covers. */
  readonly above: readonly string[];
  /** The gates nearer than it, at some page that it covers: exceptions to it. */
  readonly inside: readonly string[];
  /** The pages that it covers, also where a nearer gate decides. */
  readonly pages: readonly string[];
  readonly line: number;
}

/** What is around a gate. */
interface Surroundings {
  readonly above: Set<string>;
  readonly inside: Set<string>;
  readonly pages: string[];
}

/**
 * The gates of a site, in the order of the site file.
 *
 * @param at the moment, in milliseconds since 1970
 * @param skip how many gates to leave out at the start
 * @param limit the maximum number of gates
 */
export function gateList(
  prepared: PreparedSite,
  at: number,
  skip = 0,
  limit = Infinity,
): ListedGate[] {
  const { site } = prepared;
  const names = {
    audiences: new Map(Object.entries(site.audiences)),
    timeZone: site.timeZone,
  };
  const titles = productTitles(site.products);
  const around = surroundingsOf(new Explorer(prepared, at));
  return site.gates.slice(skip, skip + limit).map((gate) => {
    const { above, inside, pages } = around.get(gate)!;
    // Sets of its own: the words do not depend on other gates.
    const atoms = new Atoms(names);
    return {
      name: gate.name,
      right: gate.right,
      scopes: gate.scopes.map(printScope),
      admits: wordsOf(gate.admit, atoms, titles),
      otherwise: stepsOf(gate, site, above).map((one) => ({
        who: wordsOf(one.who, atoms, titles),
        what: describeOtherwise(one),
      })),
      narrows: gate.narrows,
      fullAccess: gate.fullAccess,
      isInForce: isInForce(gate, at),
      above: [...above],
      inside: [...inside],
      pages,
      line: gate.place.line,
    };
  });
}

/** What happens to those who are not admitted, with what does where the gate says nothing of someone. */
function stepsOf(gate: Gate, site: Site, above: ReadonlySet<string>): readonly Otherwise[] {
  // What a section around it hides from somebody stays hidden.
  const hiding = site.gates
    .filter(({ name }) => above.has(name))
    .flatMap((outer) => outer.otherwise.filter((step) => step.do === 'hide'));
  const otherwise = [...gate.otherwise, ...hiding];
  const last = otherwise.findIndex(({ who }) => who.is === 'anyone');
  if (last !== -1) return otherwise.slice(0, last + 1);
  const isSaidOfGuests = otherwise.some(({ who }) => who.is === 'guest');
  const guests = { ...defaultStep(true, site), who: GUESTS };
  const others = defaultStep(false, site);
  return [...otherwise, ...(isSaidOfGuests || guests.do === others.do ? [] : [guests]), others];
}

const GUESTS = { is: 'guest' } as const;

/** Which gates meet at which pages: at the example of each family of their addresses. */
function surroundingsOf(explorer: Explorer): ReadonlyMap<Gate, Surroundings> {
  const { site, gates } = explorer.prepared;
  const around = new Map<Gate, Surroundings>(
    site.gates.map((gate) => [gate, { above: new Set(), inside: new Set(), pages: [] }]),
  );
  const look = (address: string, path: string): void => {
    for (const index of Object.values(gates)) {
      const here = rulesAt(index, path);
      here.forEach((gate, i) => {
        const { above, inside, pages } = around.get(gate)!;
        if (pages.at(-1) !== address) pages.push(address);
        here.slice(0, i).forEach(({ name }) => inside.add(name));
        here.slice(i + 1).forEach(({ name }) => above.add(name));
      });
    }
  };
  for (const page of site.pages) {
    const families = literalOf(page.pattern) === null ? explorer.knownFamiliesOf(page) : null;
    const paths = families?.map(({ example }) => example) ?? [];
    for (const path of new Set([normalizePath(page.example, site.tidy), ...paths]))
      look(page.address, path);
  }
  return around;
}
