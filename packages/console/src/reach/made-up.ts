import type { MadeUpVisitor } from '@kleidon/client';

/** Whoever is made up here, as the site file declares a visitor. */
export function madeUpEntry(query: URLSearchParams): Readonly<Record<string, unknown>> {
  const given = query.get('visitor');
  if (given !== null) return readEntry(given);
  if (query.get('guest') === 'yes') return { guest: true };
  const bought = query.getAll('bought').map((product) => ({ product }));
  return Object.fromEntries(
    Object.entries({ roles: query.getAll('role'), groups: query.getAll('group'), bought }).filter(
      ([, list]) => list.length > 0,
    ),
  );
}

/** A visitor from the address of the page; the service says what is wrong with one. */
function readEntry(text: string): Readonly<Record<string, unknown>> {
  try {
    return JSON.parse(text) as Readonly<Record<string, unknown>>;
  } catch {
    return { unreadable: text };
  }
}

/** The same as calls take it. */
export const madeUp = (query: URLSearchParams): MadeUpVisitor => ({
  title: 'Someone',
  ...madeUpEntry(query),
});
