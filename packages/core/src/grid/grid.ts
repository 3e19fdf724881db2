import { readAddress } from '../address/address.ts';
import { parsePattern } from '../pattern/parse.ts';
import { buildIndex, rulesAt } from '../pattern/pattern-index.ts';
import { PATH_ALONE, type PreparedSite } from '../decision/prepared-site.ts';
import { pathOf } from '../decision/page-at.ts';
import { Explorer } from '../explore/explorer.ts';
import { literalOf } from '../model/pattern.ts';
import type { Page } from '../model/site.ts';
import type { Visitor } from '../model/visitor.ts';
import { undeclaredTargets } from '../reach/undeclared-targets.ts';
import { printInstant } from '../time/instant.ts';
import type { Outcome } from '../visit/visit.ts';
import { printScope } from '../wording/reason.ts';
import { AskedVisitor, cellsAt, type Cell } from './cell.ts';

export type { Cell };
import type { Tidy } from '../model/tidy.ts';

export interface Row {
  /** The address of the page as the site file has it; of addresses that rules cut out of a pattern, where these are. */
  readonly address: string;
  readonly title: string;
  /** The address that was visited. */
  readonly visited: string;
  /** The address of the nearest page above this one; null at the top. */
  readonly parent: string | null;
  readonly line: number;
  readonly cells: Readonly<Record<string, Cell>>;
}

/** Pages against visitors, with an outcome in each cell. */
export interface Grid {
  readonly site: string;
  readonly at: string;
  readonly visitors: readonly {
    readonly name: string;
    readonly title: string;
    readonly summary: string;
  }[];
  readonly rows: readonly Row[];
  /** With `undeclared: website`: targets of rules that the site file does not declare. */
  readonly undeclaredTargets: readonly string[];
}

/** What of a grid is wanted; everything where nothing is said. */
export interface GridFilter {
  /** Only pages at or beneath this address. */
  readonly under?: string | undefined;
  readonly visitors?: readonly string[] | undefined;
  /** Only pages where at least one of the visitors has one of these outcomes. */
  readonly outcomes?: readonly Outcome[] | undefined;
  /** Adds a row for other addresses of a page with a pattern, if a visit there ends differently for a visitor. */
  readonly families?: boolean | undefined;
}

/**
 * Decides every page for every visitor, in the order of the page tree.
 *
 * @param visitors who the grid is drawn for; the site's own visitors as a rule
 * @param at the moment of the visits, in milliseconds since 1970
 */
export function grid(
  prepared: PreparedSite,
  visitors: readonly Visitor[],
  at: number,
  filter: GridFilter = {},
): Grid {
  const shown = visitors.filter(({ name }) => !filter.visitors || filter.visitors.includes(name));
  const isIn = sectionTest(filter.under, prepared.site.tidy);
  const pages = inTreeOrder(prepared.site.pages).filter(
    ({ page }) => page.inGrid && isIn(page.example),
  );
  const asked = shown.map((visitor) => new AskedVisitor(prepared, visitor, at));
  const explorer = new Explorer(prepared, at);
  const rowOf = (page: Page, visited: string, parent: string | null, address: string): Row => {
    const cellFor = cellsAt(prepared, visited, at);
    // Without a prototype, because a visitor may have any name.
    const cells = Object.create(null) as Record<string, Cell>;
    for (const one of asked) cells[one.visitor.name] = cellFor(one);
    return {
      address,
      title: page.title,
      visited,
      parent,
      line: page.place.line,
      cells,
    };
  };
  const rows = pages.flatMap(({ page, parent }): Row[] => {
    const own = rowOf(page, page.example, parent, page.address);
    if (!filter.families || literalOf(page.pattern) !== null) return [own];
    const path = pathOf(prepared, page);
    const others = (explorer.knownFamiliesOf(page) ?? []).filter(({ has }) => !has(path));
    const cut = others.map(({ example, within }) => {
      const where =
        within.length === 0 ? 'elsewhere' : `at ${within.map(printScope).join(' and ')}`;
      return rowOf(page, example, page.address, `${page.address} ${where}`);
    });
    return [own, ...cut.filter((row) => shown.some(({ name }) => !isAlike(row, own, name)))];
  });
  const { outcomes } = filter;
  return {
    site: prepared.site.name,
    at: printInstant(at),
    visitors: shown.map(({ name, title, summary }) => ({ name, title, summary })),
    rows: outcomes
      ? rows.filter(({ cells }) =>
          Object.values(cells).some(({ outcome }) => outcomes.includes(outcome)),
        )
      : rows,
    undeclaredTargets:
      prepared.site.undeclared === 'website'
        ? [...new Set(undeclaredTargets(prepared).map(({ address }) => address))].filter(isIn)
        : [],
  };
}

/** Whether visits of a visitor to two addresses of a page end alike; each may end at its own address. */
function isAlike(one: Row, other: Row, visitor: string): boolean {
  const [mine, its] = [one, other].map(({ cells, visited }) => {
    const { final, ...cell } = cells[visitor]!;
    return JSON.stringify([cell, final === visited ? '' : final.replace(/\?return=.*/, '')]);
  });
  return mine === its;
}

/** Tells the addresses of a section from others; every address is in none. */
export function sectionTest(under: string | undefined, tidy: Tidy): (address: string) => boolean {
  if (under === undefined) return () => true;
  const pattern = parsePattern(under.length > 1 ? under.replace(/\/$/, '') : under, {
    ignoreCase: tidy.case === 'lower',
  });
  const index = buildIndex([
    { rule: true, pattern, under: true, rank: 0, ...PATH_ALONE, name: '' },
  ]);
  return (address) => {
    const read = readAddress(address, { protocol: 'https:', host: 'site.invalid' }, tidy);
    return read.ok && rulesAt(index, read.address.path).length > 0;
  };
}

/** Pages as a tree is read: each right behind the page above it, in the order of their addresses. */
export function inTreeOrder(pages: readonly Page[]): { page: Page; parent: string | null }[] {
  const keyed = pages.map((page) => ({
    page,
    steps: page.address.split('/').filter((step) => step !== ''),
  }));
  keyed.sort((a, b) => {
    for (let i = 0; i < Math.min(a.steps.length, b.steps.length); i++) {
      const [x, y] = [a.steps[i]!, b.steps[i]!];
      if (x !== y) return x < y ? -1 : 1;
    }
    return a.steps.length - b.steps.length;
  });
  const trail: { address: string; steps: readonly string[] }[] = [];
  return keyed.map(({ page, steps }) => {
    while (trail.length > 0 && !isBeneath(steps, trail.at(-1)!.steps)) trail.pop();
    const parent = trail.at(-1)?.address ?? null;
    trail.push({ address: page.address, steps });
    return { page, parent };
  });
}

const isBeneath = (steps: readonly string[], above: readonly string[]): boolean =>
  above.length > 0 && above.length < steps.length && above.every((step, i) => step === steps[i]);
