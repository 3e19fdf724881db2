import { Router } from 'express';
import { noSuchSite } from '../analysis/source.ts';
import { summaryFor } from '../analysis/summary.ts';
import { Problem } from '../calls/problem.ts';
import type { DeletedSite } from '../store/sites.ts';
import type { Context } from './context.ts';
import { checkDraft } from './drafts.ts';
import { mustHaveRoom } from './room.ts';
import { registerCalls } from './register-calls.ts';
import { withoutText } from './releases.ts';

/** Sites: list, add, delete and restore. */
export function sitesRouter(context: Context): Router {
  const router = Router();

  registerCalls(router, {
    listSites: () => ({ sites: context.sites.list().map((site) => summaryFor(context, site)) }),

    addSite: async ({ query, body: text, response }) => {
      const id = query.id ?? slugOf(await context.analyses.task('nameIn', '', { text }));
      if (id === undefined) {
        throw new Problem(
          'wrong-request',
          'The site file has no name that can be read; say ?id=NAME.',
        );
      }
      if (context.sites.summary(id)) throw new Problem('site-exists', `There is a site "${id}".`);
      if (context.sites.deleted().some((one) => one.id === id))
        throw new Problem('site-exists', `A site "${id}" was deleted, and can be restored.`);
      mustHaveRoom(context, null, text);
      const check = await checkDraft(context, { site: id, sent: { text, lists: [] } });
      const added = context.sites.add(id, text, check, context.now());
      if ('refused' in added) throw new Problem('site-exists', `There is a site "${id}".`);
      response.location(`/api/sites/${id}`).set('ETag', `"${added.version}"`);
      return summaryFor(context, id);
    },

    getSite: ({ path }) => summaryFor(context, path.site),

    deleteSite: ({ path: { site }, query: { confirm } }) => {
      if (!context.sites.summary(site)) throw noSuchSite(context.sites, site);
      if (confirm !== site)
        throw new Problem(
          'wrong-request',
          `To delete "${site}", repeat its name: ?confirm=${encodeURIComponent(site)}.`,
        );
      context.sites.remove(site, context.now());
      return undefined;
    },

    deletedSites: () => ({ sites: context.sites.deleted().map(withEnd) }),

    restoreSite: ({ path: { site } }) => {
      const restored = context.sites.restore(site, context.now());
      if (!restored) throw new Problem('no-such-site', `No site "${site}" was deleted.`);
      const scheduled = context.sites.scheduled(site);
      return {
        site: summaryFor(context, site),
        scheduled: scheduled && withoutText(scheduled),
        cancelled: restored.cancelled && withoutText(restored.cancelled),
      };
    },
  });

  return router;
}

/** How long a deleted site can be restored, in milliseconds. */
export const KEPT_DELETED = 30 * 86_400_000;

const withEnd = ({ id, deletedAt }: DeletedSite) => ({
  id,
  deletedAt,
  keptUntil: new Date(Date.parse(deletedAt) + KEPT_DELETED).toISOString(),
});

const slugOf = (name: string | null): string | undefined =>
  name === null
    ? undefined
    : name
        .normalize('NFKD')
        .toLowerCase()
        .replace(/\p{M}/gu, '')
        .replace(/[^a-z0-9]+/g, '-')
        .slice(0, 60)
        .replace(/^-+|-+$/g, '') || 'site';
