import { Router } from 'express';
import type { Message } from '@kleidon/api';
import { siteFiles } from '@kleidon/core';
import { alone } from '../check/states.ts';
import { checkedInTime, fileOf, noSuchSite, sourceOf, type Context } from './context.ts';
import type { DeletedSite } from '../store/sites.ts';
import { summaryOf } from './drafts.ts';
import { Problem } from './problem.ts';
import { registerCalls } from './register-calls.ts';
import { withoutText } from './releases.ts';

/** Sites: list, add, delete and restore. */
export function sitesRouter(context: Context): Router {
  const router = Router();

  registerCalls(router, {
    listSites: () => ({ sites: context.sites.list().map((site) => summaryFor(context, site)) }),

    addSite: async ({ query, body: text, response }) => {
      const id = query.id ?? slugOf(nameIn(text));
      if (id === undefined) {
        throw new Problem(
          'wrong-request',
          'The site file has no name that can be read; say ?id=NAME.',
        );
      }
      if (context.sites.summary(id)) throw new Problem('site-exists', `There is a site "${id}".`);
      if (context.sites.deleted().some((one) => one.id === id))
        throw new Problem('site-exists', `A site "${id}" was deleted, and can be restored.`);
      const [source, at] = [alone(text), context.now().getTime()];
      const check = await checkedInTime(context, id, source);
      context.states.keep(source, fileOf(id), at, check);
      const added = context.sites.add(id, text, summaryOf(check), context.now());
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

/** A site as it is listed. Its file is read only where nobody has checked it since it was saved. */
/** A site as it is listed. Throws `no-such-site`. */
export function summaryFor(context: Context, id: string): Message<'Site'> {
  const found = context.sites.summary(id);
  if (!found) throw noSuchSite(context.sites, id);
  let { name, errors: errorCount } = found;
  if (errorCount === null) {
    const { prepared, errors } = context.states.read(sourceOf(context, id, 'draft'), fileOf(id));
    const check = { name: prepared?.site.name ?? null, errors: errors.length };
    context.sites.keepCheck(id, found.version, check);
    ({ name, errors: errorCount } = check);
  }
  const { number, releasedAt, note } = found;
  return {
    id,
    name: name ?? id,
    draft: {
      version: found.version,
      savedAt: found.savedAt,
      errors: errorCount,
      isLive: number !== null && found.isSameText === 1 && hasSameLists(context, id, number),
    },
    live: number === null || releasedAt === null ? null : { number, releasedAt, note: note ?? '' },
  };
}

/** The name of the site, also where the file has errors elsewhere. */
function nameIn(text: string): string | undefined {
  const site = siteFiles.valueOf(text)['site'];
  const name = typeof site === 'object' && site !== null && 'name' in site ? site.name : undefined;
  return typeof name === 'string' ? name : undefined;
}

function hasSameLists({ sites }: Context, id: string, release: number): boolean {
  return JSON.stringify(sites.lists(id)) === JSON.stringify(sites.lists(id, release));
}

const slugOf = (name: string | undefined): string | undefined =>
  name === undefined
    ? undefined
    : name
        .normalize('NFKD')
        .toLowerCase()
        .replace(/\p{M}/gu, '')
        .replace(/[^a-z0-9]+/g, '-')
        .slice(0, 60)
        .replace(/^-+|-+$/g, '') || 'site';
