import { prepareSite, type PreparedSite } from '../decision/prepared-site.ts';
import { addressOf } from '../everywhere/starts.ts';
import { Explorer } from '../explore/explorer.ts';
import type { Site } from '../model/site.ts';
import { TooManyCases } from '../model/too-many-cases.ts';
import { detailOf, type ComparedStates, type VisitDifference } from './compare-states.ts';
import type { EntryChange } from './entry.ts';

/** Pages and other rules that are indexed, for all changes that are undone: about a second. */
const MAX_INDEXED = 100_000;
/** Differences that are explored, for all changes that are undone. */
const MAX_EXPLORED = 2_000;

/**
 * Names as the causes of each difference the changes that undo it when they alone are undone. Two changes may be needed
 * together, for example a gate behind a redirect that is removed too. Where no change alone undoes a difference, or there
 * are too many changes, the causes stay as they are.
 */
export function withVerifiedCauses(
  { changes, explored }: ComparedStates,
  differences: readonly VisitDifference[],
): VisitDifference[] {
  const [before, after] = [explored.before[0]!.prepared.site, explored.after[0]!.prepared];
  const { pages, redirects, gates } = after.site;
  const size = pages.length + redirects.length + gates.length;
  if (changes.length * size > MAX_INDEXED || changes.length * differences.length > MAX_EXPLORED)
    return [...differences];
  const tests = changes.map((change) => [change, causeTest(change, before, after)] as const);
  return differences.map((one) => {
    const causes = tests.flatMap(([change, isCause]) => (isCause?.(one) ? [change] : []));
    return causes.length > 0 ? { ...one, causes } : one;
  });
}

/** Tells whether a difference is gone, or another one, when a change is undone; null where it can't be undone alone. */
function causeTest(
  change: EntryChange,
  before: Site,
  after: PreparedSite,
): ((one: VisitDifference) => boolean) | null {
  // Dates are read in the time zone: it is undone with them.
  if (change.section === 'site' && change.name === 'timeZone')
    return ({ causes }) => causes.some(({ entries }) => new Set(entries.map(datesOf)).size > 1);
  const site = undone(change, before, after.site);
  if (site === null) return null;
  const prepared = prepareSite(site);
  const explorers = new Map<Explorer, Explorer>();
  return ({ place, right, explorer, visitors, causes, after: end }) => {
    let own = explorers.get(explorer);
    if (!own) {
      own = new Explorer(prepared, explorer.at, explorer.atoms);
      explorers.set(explorer, own);
    }
    const { atoms } = explorer;
    try {
      return own
        .partsOf(addressOf(place), right === 'view' ? 'GET' : 'POST')
        .some(
          (part) =>
            detailOf(part.end) !== detailOf(end) &&
            atoms.isAnyone(atoms.sets.and(visitors, part.visitors)),
        );
    } catch (error) {
      if (!(error instanceof TooManyCases)) throw error;
      return causes.includes(change);
    }
  };
}

const datesOf = ({ says }: EntryChange['entries'][number]): string =>
  says.match(/"valid(?:From|Until)":(?:\d+|null)/g)?.join() ?? '';

const LISTS = ['pages', 'gates', 'redirects', 'rewrites', 'notFound'] as const;

/** Returns the state after with one change undone; null for a change that has no say in visits. */
function undone(change: EntryChange, before: Site, after: Site): Site | null {
  const { section, name } = change;
  if (section === 'site') return { ...after, [name]: before[name as keyof Site] };
  if (section === 'audiences' || section === 'products') {
    const { [name]: _, ...others } = after[section] as Record<string, unknown>;
    const old = (before[section] as Record<string, unknown>)[name];
    return { ...after, [section]: old === undefined ? others : { ...others, [name]: old } };
  }
  const list = LISTS.find((one) => one === (section === 'not-found' ? 'notFound' : section));
  if (list === undefined) return null;
  const kept = after[list].filter(({ place }) => place !== change.after);
  const old = before[list].filter(({ place }) => place === change.before);
  return { ...after, [list]: [...kept, ...old] };
}
