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
