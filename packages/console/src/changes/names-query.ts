import { queryOptions } from '@tanstack/react-query';
import { client } from '../client.ts';
import type { Pending } from './use-pending.ts';

/** What rules and visitors of a state of the site may name, and its time zone. */
export const namesQuery = (site: string, { key, state: pending }: Pending, state = pending) =>
  queryOptions({
    queryKey: ['names', site, key, state],
    queryFn: () => client.names(site, state),
  });
