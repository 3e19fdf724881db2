import type { Paths } from '@kleidon/api';
import type createFetch from 'openapi-fetch';
import type { DifferencesRequest, MissesRequest, UsesRequest } from './api.ts';
import { given } from './given.ts';
import { asking, of, type Fetched } from './parameters.ts';

/** The calls on what happens at the website: at its gateway, and when it is probed. */
export const liveCalls = (
  http: ReturnType<typeof createFetch<Paths, 'application/json'>>,
  contentOf: <T>(call: Promise<Fetched<T>>) => Promise<T>,
) => ({
  /** The gateway of a site; null where none runs. */
  gateway: (site: string) => contentOf(http.GET('/api/sites/{site}/gateway', of(site))),
  /** Requests at the gateway by outcome, over the last hours. */
  traffic: (site: string, hours: number) =>
    contentOf(http.GET('/api/sites/{site}/traffic', asking(site, { hours }))),
  misses: (site: string, query: MissesRequest = {}) =>
    contentOf(http.GET('/api/sites/{site}/misses', asking(site, given(query)))),
  dropMiss: (site: string, address: string) =>
    contentOf(http.DELETE('/api/sites/{site}/misses', asking(site, { address }))),
  /** The redirects of the live release with how often each was used. */
  redirectUses: (site: string, query: UsesRequest = {}) =>
    contentOf(http.GET('/api/sites/{site}/redirect-uses', asking(site, given(query)))),
  sessions: (site: string) => contentOf(http.GET('/api/sites/{site}/sessions', of(site))),
  endSession: (site: string, session: string) =>
    contentOf(
      http.DELETE('/api/sites/{site}/sessions/{session}', {
        params: { path: { site, session } },
      }),
    ),
  /** Ends all sessions of a visitor; tells how many there were. */
  endSessionsOf: (site: string, visitor: string) =>
    contentOf(http.DELETE('/api/sites/{site}/sessions', asking(site, { visitor }))),
  /** The probe that the service makes by itself; null where it makes none. */
  probe: (site: string) => contentOf(http.GET('/api/sites/{site}/probe', of(site))),
  /** Begins a run of the probe now. */
  beginProbe: (site: string) => contentOf(http.POST('/api/sites/{site}/probe', of(site))),
  probeDifferences: (site: string, query: DifferencesRequest = {}) =>
    contentOf(http.GET('/api/sites/{site}/probe/differences', asking(site, given(query)))),
});
