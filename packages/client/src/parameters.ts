/** What a call came to. */
export interface Fetched<T> {
  readonly data?: T;
  readonly error?: unknown;
  readonly response: Response;
}

/** The parameters of calls that have only a site in their path. */
export const at = (site: string) => ({ path: { site } });
export const of = (site: string) => ({ params: at(site) });
export const asking = <T extends object>(site: string, query: T) => ({
  params: { ...at(site), query },
});

/** A body that is sent as it is. */
export const asText = (type: string) => ({
  headers: { 'Content-Type': type },
  bodySerializer: (text: string) => text,
});
export const CSV = asText('text/csv');

/** The rows of a list that comes in slices, all of them. */
export async function allOf<T>(
  ask: (skip: number) => Promise<{ readonly found: number; readonly rows: readonly T[] }>,
): Promise<T[]> {
  const all: T[] = [];
  for (;;) {
    const { found, rows } = await ask(all.length);
    all.push(...rows);
    if (rows.length === 0 || all.length >= found) return all;
  }
}
