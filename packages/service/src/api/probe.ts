import { Router } from 'express';
import type { Message } from '@kleidon/api';
import { draftOf } from '../analysis/source.ts';
import { Problem } from '../calls/problem.ts';
import type { Context } from './context.ts';
import { registerCalls } from './register-calls.ts';

const RUNS = 30;
/** As many messages as are looked through for those yet to be delivered. */
const MESSAGES = 200;
const USUAL_MOST = 100;

/** The probe that the service makes of a site by itself: how it stands, its runs, and what differs. */
export function probeRouter(context: Context): Router {
  const router = Router();
  const { probes, probeRecords } = context;
  const siteOf = ({ site }: { readonly site: string }): string => draftOf(context, site).site;

  registerCalls(router, {
    getProbe: ({ path }) => {
      const site = siteOf(path);
      const probe = probeOf(site);
      if (!probe) return { probe, runs: [], open: 0 };
      return {
        probe,
        runs: probeRecords.runs(site, RUNS).map((run) => ({ ...run, untried: [...run.untried] })),
        open: probeRecords.openCount(site),
      };
    },

    beginProbe: ({ path }) => {
      const site = siteOf(path);
      if (!probes.state(site))
        throw new Problem('no-probe', `The settings name no probe for "${site}".`);
      if (!probes.begin(site))
        throw new Problem('no-such-release', `The site "${site}" has not been released yet.`);
      return probeOf(site)!;
    },

    getProbeDifferences: ({ path, query }) => {
      const { ended = 'no', search = '', skip = 0, limit = USUAL_MOST } = query;
      const { found, differences } = probeRecords.differences(siteOf(path), {
        isOpen: ended === 'no',
        search,
        skip,
        limit,
      });
      return {
        found,
        differences: differences.map((one) => ({ ...one, visitor: one.visitor || null })),
      };
    },
  });

  return router;

  function probeOf(site: string): Message<'Probe'> | null {
    const state = probes.state(site);
    if (!state) return null;
    const { website, every, nextAt, running, webhook } = state;
    return {
      website,
      every: every / 1000,
      nextAt: nextAt?.toISOString() ?? null,
      running,
      webhook: webhook === null ? null : { address: webhook, ...sent(site) },
    };
  }

  function sent(site: string) {
    const messages = probeRecords.messages(site, MESSAGES);
    const [last] = messages;
    return {
      waiting: messages.filter(({ nextAt }) => nextAt !== null).length,
      last: last
        ? {
            madeAt: last.madeAt,
            attempts: last.attempts,
            deliveredAt: last.deliveredAt,
            nextAt: last.nextAt,
            answer: last.answer,
          }
        : null,
    };
  }
}
