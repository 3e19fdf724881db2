import { keepPreviousData, QueryClient } from '@tanstack/react-query';
import { Unreachable } from '@kleidon/client';

/** How often what happens at the gateway is asked for again, in milliseconds. */
export const EVERY_TEN_SECONDS = 10_000;

/** How often a service that can't be reached is asked again before that is told. */
const RETRIES = 2;

/** What the service answered, by what was asked; what was there stays until the next is. */
export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      placeholderData: keepPreviousData,
      // The service is on this machine or beside it: being offline says nothing about it.
      networkMode: 'always',
      retry: (failures, error) => error instanceof Unreachable && failures < RETRIES,
      retryDelay: 300,
    },
    mutations: { networkMode: 'always' },
  },
});
