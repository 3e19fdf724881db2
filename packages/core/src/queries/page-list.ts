import type { PreparedSite } from '../decision/prepared-site.ts';
import { familyOf } from '../explore/families.ts';
import { Explorer } from '../explore/explorer.ts';
import { inTreeOrder } from '../grid/grid.ts';
import type { Gate } from '../model/site.ts';
import { reachOf } from '../reach/reach.ts';
import { reachInWords, settled, type WhoReaches } from './who-reaches.ts';

/** A page as the list of pages shows it. */
export interface ListedPage extends Omit<
  WhoReaches,
  'condition' | 'example' | 'endings' | 'families'
> {
  readonly parent: string | null;
  readonly kind: 'document' | 'file';
  readonly state: 'there' | 'draft' | 'closed';
  /** Whether search engines may list it. */
  readonly listed: boolean;
  readonly line: number;
  /** Where the gates that have a say stand, in the order of `gates`: such as `under /crew`. */
  readonly gatesFrom: readonly string[];
}

/**
 * Every page of a site in tree order, with its gates and who reaches it in words.
 *
 * @param at the moment, in milliseconds since 1970
 * @throws QuestionError where the conditions have more cases than can be told apart
 */
export function pageList(prepared: PreparedSite, at: number): ListedPage[] {
  const places = new Map(prepared.site.gates.map((gate) => [gate.name, whereOf(gate)]));
  const explorer = new Explorer(prepared, at);
  return inTreeOrder(prepared.site.pages).map(({ page, parent }) => {
    const { condition: _, ...reach } = settled(() =>
      reachInWords(
        reachOf(explorer, page, explorer.knownFamiliesOf(page)[0] ?? familyOf(page.example)),
      ),
    );
    return {
      address: page.address,
      title: page.title,
      leadsTo: page.leadsTo,
      ...reach,
      parent,
      kind: page.kind,
      state: page.draft ? 'draft' : reach.closed === null ? 'there' : 'closed',
      listed: page.listed,
      line: page.place.line,
      gatesFrom: reach.gates.map((gate) => places.get(gate)!),
    };
  });
}

const SHOWN = 3;

function whereOf({ scopes }: Gate): string {
  const all = scopes.map(({ pattern, under }) => `${under ? 'under' : 'at'} ${pattern.text}`);
  return all.length > SHOWN
    ? `${all.slice(0, SHOWN).join(', ')} and ${all.length - SHOWN} more`
    : all.join(', ');
}
