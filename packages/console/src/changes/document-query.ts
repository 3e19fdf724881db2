import { queryOptions, skipToken } from '@tanstack/react-query';
import { client } from '../client.ts';
import type { Pending } from './use-pending.ts';

/** The site file with the pending changes, as plain values; nothing before the pending changes are known. */
export const documentQuery = (site: string, { changes, key, state }: Pending) =>
  queryOptions({
    queryKey: ['document', site, key],
    queryFn: changes ? () => client.document(site, state) : skipToken,
  });
