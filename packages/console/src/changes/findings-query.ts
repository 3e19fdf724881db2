import { queryOptions } from '@tanstack/react-query';
import { client } from '../client.ts';
import type { Pending } from './use-pending.ts';

/** The errors and findings of the site file with the pending changes. */
export const findingsQuery = (site: string, { key, state }: Pending) =>
  queryOptions({ queryKey: ['findings', site, key], queryFn: () => client.check(site, state) });
