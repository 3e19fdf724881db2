import { queryOptions } from '@tanstack/react-query';
import { client } from '../client.ts';

/**
 * Who gains access and who loses it between two states.
 *
 * @param version differs when what is compared does
 */
export const comparisonQuery = (site: string, before: string, after: string, version: string) =>
  queryOptions({
    queryKey: ['comparison', site, before, after, version],
    queryFn: () => client.compare(site, { before: { state: before }, after: { state: after } }),
  });
