import { isShownLink } from '../visible/visible.ts';
import { normalizePath } from '../address/tidy.ts';
import { ARRIVED, type Explorer } from '../explore/explorer.ts';
import { ALL, NONE } from '../explore/visitor-sets.ts';
import { compareLandings } from '../landing/landing.ts';
import type { Condition } from '../model/condition.ts';
import type { Outcome } from '../model/outcome.ts';
import type { Landing, Menu, SitePart } from '../model/site.ts';
import { GUEST } from '../model/visitor.ts';
import { isOpenToEngines } from '../reach/open-to-engines.ts';
import { followRedirects } from '../visit/visit.ts';
import type { ComparedStates, Difference } from './compare-states.ts';
import type { EntryChange } from './entry.ts';

/** A part of pages, or a link in a menu, that some visitors see now, or no longer. */
export interface SeenDifference extends Difference {
  readonly part: string | null;
  /** The menu and its link; null for a part. */
  readonly link: { readonly menu: string; readonly address: string } | null;
}

/** Where some visitors are taken after signing in or out. */
export interface Landed {
  readonly go: string;
  readonly outcome: Outcome;
  readonly status: number;
  readonly final: string;
}

export interface LandingDifference extends Difference {
  readonly after: Landing['after'];
  readonly was: Landed;
  readonly is: Difference['is'];
  readonly now: Landed;
}

/** A page that search engines may list now, or no longer. */
export interface ListingDifference {
  readonly address: string;
  readonly isListed: boolean;
  readonly causes: readonly EntryChange[];
}

const NOWHERE = { path: {}, query: '' };

const setOf = ({ atoms, prepared }: Explorer, condition: Condition): number =>
  atoms.setOf(condition, NOWHERE, prepared.names);

/** The visitors who gain something, and those who lose it. */
function gainsAndLosses(
  explorer: Explorer,
  was: number,
  is: number,
  causes: () => readonly EntryChange[],
): Difference[] {
  const { sets } = explorer.atoms;
  return (
    [
      ['gains', sets.without(is, was)],
      ['loses', sets.without(was, is)],
    ] as const
  )
    .filter(([, visitors]) => explorer.atoms.isAnyone(visitors))
    .map(([gain, visitors]) => ({ is: gain, visitors, explorer, causes: causes() }));
}

/** Who sees parts of pages that they did not see, and the other way round. */
export function partDifferences({ explored, causes }: ComparedStates): SeenDifference[] {
  const [before, after] = [explored.before[0]!, explored.after[0]!];
  const parts = new Set([before, after].flatMap(({ prepared }) => prepared.site.parts.map(nameOf)));
  return [...parts].flatMap((name) => {
    const [was, is] = [before, after].map((state) => {
      const part = state.prepared.site.parts.find((one) => one.name === name);
      return { admit: part?.admit, visitors: part ? setOf(state, part.admit) : NONE };
    }) as [{ admit?: Condition; visitors: number }, { admit?: Condition; visitors: number }];
    const why = (): readonly EntryChange[] =>
      causes.ofEntry(
        'parts',
        name,
        [was.admit, is.admit].filter((one) => one !== undefined),
      );
    return gainsAndLosses(after, was.visitors, is.visitors, why).map((one): SeenDifference => ({
      ...one,
      part: name,
      link: null,
    }));
  });
}

const nameOf = ({ name }: SitePart | Menu): string => name;

/** Who sees links in menus that they did not see, and the other way round. */
export function menuDifferences(states: ComparedStates): SeenDifference[] {
  const { explored, causes, affected, changes } = states;
  const { tidy } = explored.after[0]!.prepared.site;
  const changed = new Set(
    changes.filter(({ section }) => section === 'menus').map(({ name }) => name),
  );
  const menus = new Set(
    [explored.before[0]!, explored.after[0]!].flatMap(({ prepared }) =>
      prepared.site.menus.map(nameOf),
    ),
  );
  return [...menus].flatMap((name) => {
    const both = [explored.before[0]!, explored.after[0]!].map(({ prepared }) =>
      prepared.site.menus.find((menu) => menu.name === name),
    );
    const links = [...new Set(both.flatMap((menu) => menu?.links ?? []))].filter(
      (link) =>
        changed.has(name) ||
        affected === null ||
        affected.hasPath(normalizePath(link.replace(/[?#].*$/s, ''), tidy)),
    );
    // The menu stands on other pages.
    const [old, now] = both.map((menu) => menu && JSON.stringify(menu.on));
    const isMoved = old !== undefined && now !== undefined && old !== now;
    const differencesOf = (address: string, before: Explorer, after: Explorer): Difference[] => {
      const [was, is] = [before, after].map((state, i) => seesLink(state, both[i], address));
      const why = (): readonly EntryChange[] => {
        if (changed.has(name)) return causes.ofEntry('menus', name, []);
        const all = [before, after].map((state) => state.partsOf(address));
        const [one, other] = all.map((parts) => parts[0]!.end);
        return causes.ofVisits(one!, other!);
      };
      const { sets } = after.atoms;
      const kept = isMoved ? sets.and(was!, is!) : NONE;
      return [
        ...gainsAndLosses(after, was!, is!, why),
        ...(after.atoms.isAnyone(kept)
          ? [{ is: 'otherwise' as const, visitors: kept, explorer: after, causes: why() }]
          : []),
      ];
    };
    return links.flatMap((address) => {
      // What is so from one moment on is told once. A menu that shows everything does not depend on the moment.
      const moments = both.some((menu) => menu?.onlyUsable) ? explored.after : [explored.after[0]!];
      const told = new Set<string>();
      return moments
        .flatMap((after, i) => differencesOf(address, explored.before[i]!, after))
        .filter(({ is, visitors }) => {
          const isNew = !told.has(`${is} ${visitors}`);
          told.add(`${is} ${visitors}`);
          return isNew;
        })
        .map((one): SeenDifference => ({ ...one, part: null, link: { menu: name, address } }));
    });
  });
}

function seesLink(state: Explorer, menu: Menu | undefined, link: string): number {
  if (!menu?.links.includes(link)) return NONE;
  if (!menu.onlyUsable) return ALL;
  return state.visitorsOf(state.partsOf(link), ({ end }) => isShownLink(end));
}

/** Who is taken elsewhere after signing in or out, or to something else there. */
export function landingDifferences({ explored, causes }: ComparedStates): LandingDifference[] {
  const [before, after] = [explored.before[0]!, explored.after[0]!];
  const { atoms } = after;
  return (['sign-in', 'sign-out'] as const).flatMap((moment) => {
    const found = new Map<string, LandingDifference>();
    for (const was of landingsOf(before, moment))
      for (const is of landingsOf(after, moment)) {
        // Visitors who come from an address return to it first, if the rule says so.
        const [old, now] = [was, is].map(({ landed, rule }) =>
          JSON.stringify([landed, rule?.returnFirst ?? true]),
        );
        const visitors = atoms.sets.and(was.visitors, is.visitors);
        if (old === now || !atoms.isAnyone(visitors)) continue;
        const [had, has] = [was, is].map(({ landed }) => ARRIVED.includes(landed.outcome));
        const key = `${old} ${now}`;
        found.set(key, {
          after: moment,
          was: was.landed,
          now: is.landed,
          is: had === has ? 'otherwise' : has ? 'gains' : 'loses',
          visitors: atoms.sets.or(found.get(key)?.visitors ?? NONE, visitors),
          explorer: after,
          causes: causes.ofLanding(was.rule, is.rule, was.end, is.end),
        });
      }
    return [...found.values()];
  });
}

interface LandedVisitors {
  readonly visitors: number;
  readonly rule: Landing | null;
  readonly landed: Landed;
  readonly end: ReturnType<typeof followRedirects>;
}

/** Where everyone lands; whoever has signed out arrives as a guest. */
function landingsOf(state: Explorer, moment: Landing['after']): LandedVisitors[] {
  const { prepared, atoms, at } = state;
  const rules = prepared.site.landings
    .filter(({ after }) => after === moment)
    .sort(compareLandings);
  let left = atoms.signedIn;
  const all: (readonly [Landing | null, number])[] = rules.map((rule) => {
    const visitors = atoms.sets.and(left, setOf(state, rule.who));
    left = atoms.sets.without(left, visitors);
    return [rule, visitors] as const;
  });
  return [...all, [null, left] as const].flatMap(([rule, visitors]): LandedVisitors[] => {
    const go = rule?.go ?? '/';
    const ends =
      moment === 'sign-in'
        ? state.partsOf(go)
        : [
            {
              visitors: ALL,
              end: followRedirects(prepared, { method: 'GET', address: go }, GUEST, at),
            },
          ];
    return ends
      .map(({ visitors: those, end }) => ({
        visitors: atoms.sets.and(visitors, those),
        rule,
        landed: { go, outcome: end.outcome, status: end.status, final: end.final },
        end,
      }))
      .filter((one) => atoms.isAnyone(one.visitors));
  });
}

/** The pages that search engines may list in one state and not in the other. */
export function listingDifferences({
  explored,
  causes,
  affected,
}: ComparedStates): ListingDifference[] {
  const states = [explored.before[0]!, explored.after[0]!].map(({ prepared, at }) => ({
    prepared,
    at,
    pages: new Map(
      prepared.site.pages
        .filter(({ pattern }) => affected?.mayMeet(pattern) ?? true)
        .map((page) => [page.example, page]),
    ),
  }));
  const addresses = new Set(states.flatMap(({ pages }) => [...pages.keys()]));
  return [...addresses].flatMap((address): ListingDifference[] => {
    const ends = states.map(({ prepared, at }) =>
      followRedirects(prepared, { method: 'GET', address }, GUEST, at),
    );
    const [was, is] = states.map(({ prepared, pages, at }) => {
      const page = pages.get(address);
      return page !== undefined && isOpenToEngines(prepared, page, at);
    });
    return was === is
      ? []
      : [{ address, isListed: is!, causes: causes.ofVisits(ends[0]!, ends[1]!) }];
  });
}
