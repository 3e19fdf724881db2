import type { decisions } from '@kleidon/core';
import {
  forVisitors,
  occurring,
  sectionsOf,
  shownRows,
  type RowFilter,
} from '../src/reach/rows.ts';

const cell = (outcome: decisions.Outcome): decisions.Cell => ({
  outcome,
  status: 200,
  final: '/',
  hops: 0,
  fullAccess: false,
});
const row = (
  address: string,
  parent: string | null,
  outcome: decisions.Outcome = 'reach',
): decisions.Row => ({
  address,
  title: `Title of ${address}`,
  visited: address,
  parent,
  line: 1,
  cells: { gale: cell(outcome) },
});
const grid: decisions.Grid = {
  site: 'Rows',
  at: '2026-11-23T12:00:00Z',
  visitors: [{ name: 'gale', title: 'Gale', summary: 'guest' }],
  undeclaredTargets: [],
  rows: [
    row('/', null),
    row('/crew', null, 'sign-in'),
    row('/crew/log', '/crew', 'sign-in'),
    row('/crew/log/:entry', '/crew/log', 'missing'),
    row('/crew/rota', '/crew', 'sign-in'),
    row('/crew-only', null, 'block'),
  ],
};
const NOTHING: RowFilter = { text: '', under: '', outcomes: [], differ: false, folded: new Set() };
const shown = (filter: Partial<RowFilter>): string[] =>
  shownRows(grid, { ...NOTHING, ...filter }).map(({ row: { address } }) => address);

describe('the rows of the grid', () => {
  test('are a tree: depth, a label without what stands above, and who can be folded', () => {
    expect(
      shownRows(grid, NOTHING).map(({ depth, label, isParent }) => [depth, label, isParent]),
    ).toEqual([
      [0, '/', false],
      [0, '/crew', true],
      [1, '/log', true],
      [2, '/:entry', false],
      [1, '/rota', false],
      [0, '/crew-only', false],
    ]);
  });

  test('that match a text keep the pages above them, so that their place can be seen', () => {
    expect(shown({ text: 'ENTRY' })).toEqual(['/crew', '/crew/log', '/crew/log/:entry']);
    expect(shown({ text: 'title of /crew/rota' })).toEqual(['/crew', '/crew/rota']);
    expect(shown({ text: 'nothing' })).toEqual([]);
  });

  test('of a section are those beneath it, and not those whose address only begins alike', () => {
    expect(shown({ under: '/crew' })).toEqual([
      '/crew',
      '/crew/log',
      '/crew/log/:entry',
      '/crew/rota',
    ]);
    expect(shown({ under: '/' })).toHaveLength(6);
  });

  test('are those where someone meets an outcome', () => {
    expect(shown({ outcomes: ['block'] })).toEqual(['/crew-only']);
    expect(shown({ outcomes: ['missing', 'block'] })).toEqual([
      '/crew',
      '/crew/log',
      '/crew/log/:entry',
      '/crew-only',
    ]);
  });

  test('of two visitors are those where the two differ', () => {
    const two: decisions.Grid = {
      ...grid,
      visitors: ['gale', 'vik', 'wren'].map((name) => ({ name, title: name, summary: name })),
      rows: grid.rows.map((one) => ({
        ...one,
        cells: {
          ...one.cells,
          vik: cell(one.address === '/crew/rota' ? 'reach' : one.cells['gale']!.outcome),
          wren: cell('loop'),
        },
      })),
    };
    const pair = forVisitors(two, ['gale', 'vik', 'nobody']);
    expect(pair.visitors.map(({ name }) => name)).toEqual(['gale', 'vik']);
    const addresses = (of: decisions.Grid, filter: Partial<RowFilter>): string[] =>
      shownRows(of, { ...NOTHING, ...filter }).map(({ row: { address } }) => address);
    expect(addresses(pair, { differ: true })).toEqual(['/crew', '/crew/rota']);
    expect(addresses(two, { differ: true })).toHaveLength(6);
    // What happens to someone who is not shown is nothing to filter by.
    expect(addresses(pair, { outcomes: ['loop'] })).toEqual([]);
    expect(forVisitors(two, ['nobody'])).toBe(two);
  });

  test('beneath a folded page are hidden, however deep', () => {
    expect(shown({ folded: new Set(['/crew']) })).toEqual(['/', '/crew', '/crew-only']);
    expect(shown({ folded: new Set(['/crew/log']) })).toEqual([
      '/',
      '/crew',
      '/crew/log',
      '/crew/rota',
      '/crew-only',
    ]);
    const [, crew] = shownRows(grid, { ...NOTHING, folded: new Set(['/crew']) });
    expect(crew).toMatchObject({ isParent: true, isFolded: true });
  });

  test('a page that is no parent among those shown has nothing to fold', () => {
    const [crew] = shownRows(grid, { ...NOTHING, text: '/crew/rota' });
    expect(crew).toMatchObject({ label: '/crew', isParent: true });
    expect(shownRows(grid, { ...NOTHING, text: 'crew-only' })[0]).toMatchObject({
      isParent: false,
    });
  });

  test('their sections and outcomes are what the filters offer', () => {
    expect(sectionsOf(grid)).toEqual(['/crew', '/crew/log']);
    expect([...occurring(grid)]).toEqual([
      ['reach', 1],
      ['sign-in', 3],
      ['missing', 1],
      ['block', 1],
    ]);
  });
});
