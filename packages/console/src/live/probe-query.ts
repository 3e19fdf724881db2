import { queryOptions } from '@tanstack/react-query';
import { client } from '../client.ts';
import { EVERY_TEN_SECONDS } from '../query-client.ts';

/** How often it is asked how far a run is, in milliseconds. */
const WHILE_RUNNING = 1000;

/** The probe of a site, asked for more often while a run goes on. */
export const probeQuery = (site: string) =>
  queryOptions({
    queryKey: ['probe', site],
    queryFn: () => client.probe(site),
    refetchInterval: ({ state }) =>
      state.data?.probe?.running ? WHILE_RUNNING : EVERY_TEN_SECONDS,
  });
