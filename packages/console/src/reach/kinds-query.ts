import { queryOptions } from '@tanstack/react-query';
import { client } from '../client.ts';

/** The kinds of visitors that the rules tell apart; empty texts for now, and for the whole site. */
export const kindsQuery = (site: string, key: string, state: string, at: string, under: string) =>
  queryOptions({
    queryKey: ['kinds', site, key, state, at, under],
    queryFn: ({ signal }) =>
      client.kinds(site, { state, at: at || undefined, under: under || undefined }, signal),
  });

/**
 * The reach grid, against the visitors of the site file or against one of each kind.
 *
 * @param kindsUnder the section whose kinds are the columns, empty for all of the site; null for listed visitors
 */
export const gridQuery = (
  site: string,
  key: string,
  state: string,
  at: string,
  kindsUnder: string | null,
) =>
  queryOptions({
    queryKey: ['grid', site, key, state, at, kindsUnder],
    queryFn: ({ signal }) =>
      client.grid(
        site,
        {
          state,
          at: at || undefined,
          ...(kindsUnder === null ? {} : { kinds: 'yes' as const, under: kindsUnder || undefined }),
        },
        signal,
      ),
    // A large grid is compared cell by cell otherwise.
    structuralSharing: false,
  });
