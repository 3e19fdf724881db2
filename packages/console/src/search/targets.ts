import type { model } from '@kleidon/core';
import { TASKS } from '../navigation.ts';

/** Something that the search finds: where it is, below the site's own path, and in which group it is listed. */
export interface Target {
  readonly group: string;
  readonly title: string;
  readonly to: string;
}

/** As many of a group as are listed; who looks for more types more. */
const SHOWN = 8;

const COMMANDS: readonly Target[] = [
  ['New page', '/pages?new=yes'],
  ['New gate', '/access/gates?new=yes'],
  ['New redirect', '/addresses/redirects?new=yes'],
  ['Import redirects', '/addresses/redirects?import=yes'],
  ['New visitor', '/visitors?new=yes'],
  ['Review pending changes', '/review'],
].map(([title, to]) => ({ group: 'Commands', title: title!, to: to! }));

/** The named sections, with the page of each. */
const NAMED = [
  ['Gates', 'gates', '/access/gates'],
  ['Audiences', 'audiences', '/access/audiences'],
  ['Roles', 'roles', '/access/roles'],
  ['Groups', 'groups', '/access/groups'],
  ['Parts', 'parts', '/access/parts'],
  ['Menus', 'menus', '/access/menus'],
  ['Products', 'products', '/visitors/products'],
  ['Visitors', 'visitors', '/visitors'],
] as const;

const query = (fields: Record<string, string>): string => new URLSearchParams(fields).toString();

/**
 * All that can be found.
 * @param document the site file as plain values
 */
export function targetsOf(
  document: Readonly<Record<string, unknown>>,
  findings: readonly model.Finding[],
): readonly Target[] {
  return [
    ...TASKS.flatMap(({ title: task, pages }) =>
      pages.map(([to, title]) => ({
        group: 'Go to',
        title: title === task ? title : `${task}: ${title}`,
        to,
      })),
    ),
    ...COMMANDS,
    ...recordOf(document['pages']).map(([address, page]) => ({
      group: 'Pages',
      title: [address, titleOf(page)].filter(Boolean).join(' '),
      to: `/pages?${query({ page: address })}`,
    })),
    ...NAMED.flatMap(([group, section, path]) =>
      recordOf(document[section]).map(([name, value]) => ({
        group,
        title: [name, titleOf(value)].filter(Boolean).join(' '),
        to: `${path}?${query({ name })}`,
      })),
    ),
    ...listOf(document['redirects']).map(({ from, to }) => ({
      group: 'Redirects',
      title: `${String(from)} → ${String(to)}`,
      to: `/addresses/redirects?${query({ text: String(from) })}`,
    })),
    ...listOf(document['rewrites']).map(({ from, serve }) => ({
      group: 'Rewrites',
      title: `${String(from)} → ${String(serve)}`,
      to: `/addresses/rewrites?${query({ text: String(from) })}`,
    })),
    ...findings.map(({ message, line }) => ({
      group: 'Findings',
      title: message,
      to: `/file?line=${line}`,
    })),
  ];
}

/**
 * The targets that have every word of a text, by group; an address can be tried besides.
 * @param text what was typed
 */
export function search(
  targets: readonly Target[],
  text: string,
): ReadonlyMap<string, readonly Target[]> {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const groups = new Map<string, Target[]>();
  const address = text.trim();
  if (address.startsWith('/'))
    groups.set('Try an address', [
      {
        group: 'Try an address',
        title: `Try ${address}`,
        to: `/reach/address?${query({ address })}`,
      },
    ]);
  for (const target of targets) {
    const title = target.title.toLowerCase();
    if (!words.every((word) => title.includes(word))) continue;
    const group = groups.get(target.group) ?? [];
    if (group.length < SHOWN) groups.set(target.group, [...group, target]);
  }
  return groups;
}

const isRecord = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const recordOf = (value: unknown): [string, unknown][] =>
  isRecord(value) ? Object.entries(value) : [];

const listOf = (value: unknown): readonly Readonly<Record<string, unknown>>[] =>
  Array.isArray(value) ? value.filter(isRecord) : [];

function titleOf(value: unknown): string {
  const title = typeof value === 'string' ? value : isRecord(value) ? value['title'] : '';
  return typeof title === 'string' ? title : '';
}
