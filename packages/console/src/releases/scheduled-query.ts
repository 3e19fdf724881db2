import { queryOptions } from '@tanstack/react-query';
import { client } from '../client.ts';

/** The release that takes effect at a set time; null where there is none. */
export const scheduledQuery = (site: string) =>
  queryOptions({
    queryKey: ['scheduled release', site],
    queryFn: () => client.scheduledRelease(site),
  });
