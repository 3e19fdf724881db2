import { receiveMessageOnPort } from 'node:worker_threads';
import { setImmediate as breathe } from 'node:timers/promises';
import type { Logger } from 'pino';
import { decisions } from '@kleidon/core';
import type { SiteStore } from '../store/sites.ts';
import type { Analyses } from './analyses.ts';
import { siteFrom, type SitePart } from './site-parts.ts';

/** The releases that gateways decide by. */
export interface LiveSites {
  /** The live release of a site, or the previous one while the live one is being prepared. Null if none is live. */
  of(site: string): decisions.PreparedSite | null;
  /** Prepares the live release of a site, if there is one. A failure is logged and retried. */
  ready(site: string): Promise<void>;
  /**
   * Prepares a state of a site that is released next.
   *
   * @returns puts it in force as the release of a number, between two requests
   */
  ahead(site: string, state: string): Promise<(number: number) => void>;
}

/** For how long the thread works before it sees to requests again, in milliseconds. */
const SLICE = 4;
/** After how many milliseconds a release that could not be prepared is tried again. */
const AGAIN = 5_000;

interface Live {
  readonly number: number;
  readonly prepared: decisions.PreparedSite;
}

/**
 * Keeps the live releases of the sites that gateways stand before. They are read in the threads of the analyses, and
 * prepared here in small steps, so that no visitor waits.
 *
 * @param hasGateway whether a gateway stands before a site
 */
export function liveSites(
  sites: Pick<SiteStore, 'liveNumber'>,
  analyses: Analyses,
  hasGateway: (site: string) => boolean,
  log: Logger,
): LiveSites {
  const live = new Map<string, Live>();
  const loading = new Map<string, Promise<void>>();
  const failedAt = new Map<string, number>();

  const prepare = async (site: string, state: string): Promise<decisions.PreparedSite> => {
    const parts = await analyses.task('parts', site, { site, state });
    const next = (): SitePart | undefined =>
      receiveMessageOnPort(parts)?.message as SitePart | undefined;
    const read = await inSlices(siteFrom(next));
    parts.close();
    return inSlices(decisions.prepareInSteps(read));
  };

  const load = async (site: string): Promise<void> => {
    const number = sites.liveNumber(site);
    if (number === null) return;
    try {
      const prepared = await prepare(site, String(number));
      live.set(site, { number, prepared });
      failedAt.delete(site);
    } catch (error) {
      failedAt.set(site, Date.now());
      log.error({ err: error, site, number }, 'a release could not be prepared; it is tried again');
    }
  };

  const ready = (site: string): Promise<void> => {
    const known = loading.get(site) ?? load(site).finally(() => loading.delete(site));
    loading.set(site, known);
    return known;
  };

  return {
    ready,
    of: (site) => {
      const number = sites.liveNumber(site);
      if (number === null) {
        live.delete(site);
        return null;
      }
      const known = live.get(site);
      if (known?.number !== number && Date.now() - (failedAt.get(site) ?? 0) > AGAIN)
        void ready(site);
      return known?.prepared ?? null;
    },
    ahead: async (site, state) => {
      if (!hasGateway(site)) return () => undefined;
      const prepared = await prepare(site, state);
      return (number) => live.set(site, { number, prepared });
    },
  };
}

/** Goes through steps, and lets requests in between. */
async function inSlices<T>(steps: Generator<undefined, T>): Promise<T> {
  for (;;) {
    const until = performance.now() + SLICE;
    do {
      const { done, value } = steps.next();
      if (done) return value;
    } while (performance.now() < until);
    await breathe();
  }
}
