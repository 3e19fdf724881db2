import { Router, type Response } from 'express';
import { unlessTooSlow } from '../analysis/analyses.ts';
import { draftOf, noSuchSite } from '../analysis/source.ts';
import type { ReleaseAsked } from '../analysis/tasks.ts';
import { Problem } from '../calls/problem.ts';
import type { ReleaseRecord, ScheduledText } from '../store/releases.ts';
import type { Context } from './context.ts';
import { changed, textOrJson } from './drafts.ts';
import { mustHaveRoom } from './room.ts';
import { registerCalls, SENT, withJson } from './register-calls.ts';

/** Releases of a site: numbered states that never change, the latest of which is live. */
export function releasesRouter(context: Context): Router {
  const router = Router();
  const foundOf = (site: string, number: number): ReleaseRecord => {
    const release = context.sites.findRelease(site, number);
    if (release) return release;
    throw new Problem('no-such-release', `The site "${site}" has no release ${number}.`);
  };

  /** A site whose draft is at this version: what is checked is then what is released. */
  const siteWithDraft = (id: string, version: number): string => {
    const current = draftOf(context, id);
    if (current.version === version) {
      mustHaveRoom(context, current.site, current.text);
      return current.site;
    }
    throw changed(current.site, version, { refused: 'changed', current });
  };

  registerCalls(router, {
    listReleases: ({ path }) => {
      const { site } = draftOf(context, path.site);
      return { releases: context.sites.releases(site) };
    },

    release: async ({ path, version, body, response }) => {
      const site = siteWithDraft(path.site, version);
      const prepared = await prepareRelease(context, site, 'draft', body);
      const released = context.sites.release(site, version, prepared.why, context.now());
      if ('refused' in released) throw changed(site, version, released);
      return sendReleased(response, released, prepared);
    },

    getRelease: ({ path, request, response }) => {
      const { site } = draftOf(context, path.site);
      return textOrJson(request, response, foundOf(site, path.number));
    },

    restoreRelease: async ({ path, body, response }) => {
      const { site } = draftOf(context, path.site);
      const { number, text } = foundOf(site, path.number);
      mustHaveRoom(context, site, text);
      const prepared = await prepareRelease(context, site, String(number), body);
      const released = context.sites.restoreRelease(site, number, prepared.why, context.now());
      // It was deleted meanwhile.
      if (!released) throw noSuchSite(context.sites, site);
      return sendReleased(response, released, prepared);
    },

    getScheduledRelease: ({ path }) => {
      const { site } = draftOf(context, path.site);
      const scheduled = context.sites.scheduled(site);
      return { scheduled: scheduled && withoutText(scheduled) };
    },

    scheduleRelease: async ({ path, version, body }) => {
      const site = siteWithDraft(path.site, version);
      const { at, ...why } = await mayBeReleased(context, site, 'draft', body, body.at);
      const now = context.now();
      const scheduled = context.sites.schedule(site, version, why, new Date(at), now);
      if (!('refused' in scheduled)) return withoutText(scheduled);
      if (scheduled.refused !== 'scheduled') throw changed(site, version, scheduled);
      const { draftVersion, takesEffectAt } = scheduled.before;
      throw new Problem(
        'release-scheduled',
        `Version ${draftVersion} of the draft is released at ${takesEffectAt}.`,
      );
    },

    cancelScheduledRelease: ({ path }) => {
      const { site } = draftOf(context, path.site);
      if (!context.sites.cancelScheduled(site))
        throw new Problem('nothing-scheduled', `No release of "${site}" is scheduled.`);
    },
  });

  return router;
}

/** How long before its time a scheduled release is prepared, in milliseconds. */
const AHEAD = 30_000;

/**
 * Makes scheduled releases live when their time has come. They are prepared before that.
 *
 * @returns takes those whose time has come, and tells which releases were made
 */
export function scheduledReleases(context: Context): () => Promise<ReleaseRecord[]> {
  const prepared = new Map<string, Promise<PreparedScheduled>>();
  return async () => {
    const soon = new Map<string, { site: string; scheduled: ScheduledText }>();
    for (const site of context.sites.due(new Date(context.now().getTime() + AHEAD))) {
      const scheduled = context.sites.scheduled(site);
      // It is compared with what is live, which may change until then.
      const live = context.sites.liveNumber(site);
      if (scheduled) soon.set(`${site} ${scheduled.scheduledAt} ${live}`, { site, scheduled });
    }
    for (const [key, { site }] of soon)
      if (!prepared.has(key)) prepared.set(key, prepareScheduled(context, site));
    for (const key of prepared.keys()) if (!soon.has(key)) prepared.delete(key);
    const made: ReleaseRecord[] = [];
    for (const [key, { site, scheduled }] of soon) {
      if (Date.parse(scheduled.takesEffectAt) > context.now().getTime()) continue;
      const { says, inForce } = await prepared.get(key)!;
      prepared.delete(key);
      // It may have been cancelled meanwhile, and another one scheduled.
      if (context.sites.scheduled(site)?.scheduledAt !== scheduled.scheduledAt) continue;
      const released = context.sites.releaseScheduled(site, says, context.now());
      if (!released) continue;
      inForce(released.number);
      made.push(released);
    }
    return made;
  };
}

interface PreparedScheduled {
  readonly says: string[] | null;
  readonly inForce: (number: number) => void;
}

async function prepareScheduled(context: Context, site: string): Promise<PreparedScheduled> {
  const state = 'scheduled';
  const says = await effectOf(context, site, state);
  // Where that fails, the gateway prepares it once it is live.
  const inForce = await context.live.ahead(site, state).catch(() => () => undefined);
  return { says, inForce };
}

/** What a state changes for whom. That this can't be told is no reason against a release. */
const effectOf = ({ analyses }: Context, site: string, state: string): Promise<string[] | null> =>
  analyses.task('effect', site, { site, state }).catch(() => null);

interface PreparedRelease {
  readonly why: {
    readonly note: string;
    readonly override: string | null;
    readonly says: string[] | null;
  };
  /** The findings that it brings, as JSON. */
  readonly introduced: Uint8Array;
  readonly inForce: (number: number) => void;
}

/** Prepares a release that takes effect now. */
async function prepareRelease(
  context: Context,
  site: string,
  state: string,
  asked: ReleaseAsked,
): Promise<PreparedRelease> {
  const { note, override } = await mayBeReleased(context, site, state, asked);
  const introduced = await unlessTooSlow(
    context.analyses.task('introducedByRelease', site, { site, state }),
    new TextEncoder().encode('[]'),
  );
  const inForce = await context.live.ahead(site, state);
  // Last, for it is recorded against what is live when the release takes effect.
  const says = await effectOf(context, site, state);
  return { why: { note, override, says }, introduced, inForce };
}

/** Throws where a state may not be released, or that can't be found out in time. */
const mayBeReleased = (
  { analyses }: Context,
  site: string,
  state: string,
  { note, override }: ReleaseAsked,
  at?: string,
) => analyses.task('mayBeReleased', site, { site, state, asked: { note, override }, at });

/** Puts a release in force, and answers with it. */
function sendReleased(
  response: Response,
  released: ReleaseRecord,
  { introduced, inForce }: PreparedRelease,
): typeof SENT {
  inForce(released.number);
  response
    .status(201)
    .location(`/api/sites/${released.site}/releases/${released.number}`)
    .type('json')
    .send(withJson(withoutText(released), { introduced }));
  return SENT;
}

export function withoutText<T extends { readonly text: string }>({
  text: _,
  ...rest
}: T): Omit<T, 'text'> {
  return rest;
}
