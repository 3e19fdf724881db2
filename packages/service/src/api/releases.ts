import { Router } from 'express';
import { type model, queries } from '@kleidon/core';
import type { Source } from '../check/states.ts';
import type { ReleaseRecord } from '../store/releases.ts';
import {
  checkOf,
  draftOf,
  fileOf,
  listed,
  momentOf,
  noSuchSite,
  preparedFrom,
  preparedOf,
  sourceOf,
  type Context,
} from './context.ts';
import { changed, textOrJson } from './drafts.ts';
import { Problem } from './problem.ts';
import { registerCalls } from './register-calls.ts';

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
    if (current.version === version) return current.site;
    throw changed(current.site, version, { refused: 'changed', current });
  };

  registerCalls(router, {
    listReleases: ({ path }) => {
      const { site } = draftOf(context, path.site);
      return { releases: context.sites.releases(site) };
    },

    release: async ({ path, version, body, response }) => {
      const site = siteWithDraft(path.site, version);
      const draft = sourceOf(context, site, 'draft');
      const { introduced, ...why } = await prepareRelease(context, site, draft, body);
      const released = context.sites.release(site, version, why, context.now());
      if ('refused' in released) throw changed(site, version, released);
      response.location(`/api/sites/${site}/releases/${released.number}`);
      return { ...withoutText(released), introduced };
    },

    getRelease: ({ path, request, response }) => {
      const { site } = draftOf(context, path.site);
      return textOrJson(request, response, foundOf(site, path.number));
    },

    restoreRelease: async ({ path, body, response }) => {
      const { site } = draftOf(context, path.site);
      const { number } = foundOf(site, path.number);
      const earlier = sourceOf(context, site, String(number));
      const { introduced, ...why } = await prepareRelease(context, site, earlier, body);
      const released = context.sites.restoreRelease(site, number, why, context.now());
      // It was deleted meanwhile.
      if (!released) throw noSuchSite(context.sites, site);
      response.location(`/api/sites/${site}/releases/${released.number}`);
      return { ...withoutText(released), introduced };
    },

    getScheduledRelease: ({ path }) => {
      const { site } = draftOf(context, path.site);
      const scheduled = context.sites.scheduled(site);
      return { scheduled: scheduled && withoutText(scheduled) };
    },

    scheduleRelease: async ({ path, version, body }) => {
      const site = siteWithDraft(path.site, version);
      const draft = sourceOf(context, site, 'draft');
      const at = momentOf(context, preparedOf(context, site, 'draft'), body.at);
      if (at <= context.now().getTime())
        throw new Problem('wrong-request', `"${body.at}" is over already: name a time to come.`);
      const why = await mayBeReleased(context, site, draft, body, at);
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

/**
 * Makes the releases live whose time has come.
 *
 * @returns those that were made
 */
export function releaseDue(context: Context): ReleaseRecord[] {
  const now = context.now();
  return context.sites.due(now).flatMap((site) => {
    const scheduled = context.sites.scheduled(site);
    if (!scheduled) return [];
    const says = effectOf(context, site, {
      text: scheduled.text,
      ...listed(context, context.sites.scheduledLists(site)),
    });
    return context.sites.releaseScheduled(site, says, now) ?? [];
  });
}

interface Asked {
  readonly note: string;
  readonly override?: string | undefined;
}

/** What is recorded of a release that takes effect now, and which findings it brings. */
async function prepareRelease(context: Context, site: string, source: Source, asked: Asked) {
  const why = await mayBeReleased(context, site, source, asked, context.now().getTime());
  const introduced = await introducedBy(context, site, source);
  // Last, for it is recorded against what is live when the release takes effect.
  return { ...why, introduced, says: effectOf(context, site, source) };
}

/** The note and the override; refused where the file has errors, or breaks a guarantee without a reason. */
async function mayBeReleased(
  context: Context,
  site: string,
  source: Source,
  { note, override }: Asked,
  at: number,
): Promise<{ note: string; override: string | null }> {
  preparedFrom(context, source, fileOf(site));
  if (!note.trim())
    throw new Problem('wrong-request', 'A release needs a note: say why it is made.');
  const { guarantees } = await checkOf(context, source, fileOf(site), at);
  const broken = guarantees.filter(({ is }) => is !== 'proved');
  if (broken.length > 0 && !override?.trim())
    throw new Problem('guarantee-broken', broken.map(saidOf).join(' '), { guarantees: broken });
  return { note: note.trim(), override: broken.length > 0 ? override!.trim() : null };
}

const saidOf = ({ name, words, message }: queries.ListedGuarantee): string =>
  `Guarantee ${name}: ${words}. ${message}`;

/** What looks wrong in a state and does not in the release that is live. */
async function introducedBy(
  context: Context,
  site: string,
  source: Source,
): Promise<model.Finding[]> {
  const at = context.now().getTime();
  const { findings } = await checkOf(context, source, fileOf(site), at);
  if (context.sites.liveNumber(site) === null) return queries.introducedFindings([], findings);
  const live = await context.states.check(sourceOf(context, site, 'live'), fileOf(site), at);
  return live ? queries.introducedFindings(live.findings, findings) : [];
}

const MOST_SENTENCES = 40;

/** What a state changes for whom against the release that is live; null where that can't be worked out. */
function effectOf(context: Context, site: string, source: Source): string[] | null {
  if (context.sites.liveNumber(site) === null) return [];
  const [was, is] = [sourceOf(context, site, 'live'), source].map(
    (one) => context.states.read(one, fileOf(site)).prepared,
  );
  if (!was || !is) return null;
  try {
    const { changes, notCompared } = queries.compareSites(was, is, context.now().getTime());
    const says = changes.map(
      ({ rule, is: how, summary }) =>
        `${rule} ${how}: ${summary.length > 0 ? summary.join('; ') : 'without effect for anyone'}`,
    );
    const left = says.length - MOST_SENTENCES;
    return [
      ...says.slice(0, MOST_SENTENCES),
      ...(left > 0 ? [`and ${left} more`] : []),
      ...(notCompared.length > 0 ? [`Not compared: ${notCompared.join(', ')}`] : []),
    ];
  } catch {
    // What it changes is told beside a release; that it can't be is no reason against it.
    return null;
  }
}

export function withoutText<T extends { readonly text: string }>({
  text: _,
  ...rest
}: T): Omit<T, 'text'> {
  return rest;
}
