import { Router } from 'express';
import { type model, queries } from '@kleidon/core';
import type { ReleaseRecord } from '../store/sites.ts';
import { draftOf, fileOf, preparedOf, sourceOf, type Context } from './context.ts';
import { changed, textOrJson } from './drafts.ts';
import { Problem } from './problem.ts';
import { registerCalls } from './register-calls.ts';

/** Releases of a site: numbered states that never change, the latest of which is live. */
export function releasesRouter(context: Context): Router {
  const router = Router();

  registerCalls(router, {
    listReleases: ({ path }) => {
      const { site } = draftOf(context, path.site);
      return { releases: context.sites.releases(site) };
    },

    release: ({ path, version, body, response }) => {
      const { site } = draftOf(context, path.site);
      preparedOf(context, site, 'draft');
      const introduced = introducedBy(context, site);
      const released = context.sites.release(site, version, body.note ?? '', context.now());
      if ('refused' in released) throw changed(site, version, released);
      response.location(`/api/sites/${site}/releases/${released.number}`);
      return { ...withoutText(released), introduced };
    },

    getRelease: ({ path, request, response }) => {
      const { site } = draftOf(context, path.site);
      const release = context.sites.findRelease(site, path.number);
      if (!release)
        throw new Problem('no-such-release', `The site "${site}" has no release ${path.number}.`);
      return textOrJson(request, response, release);
    },
  });

  return router;
}

/** What looks wrong in the draft and does not in the release that is live. */
function introducedBy(context: Context, site: string): model.Finding[] {
  const at = context.now().getTime();
  const findingsOf = (state: string): readonly model.Finding[] =>
    context.states.check(sourceOf(context, site, state), fileOf(site), at).findings;
  const isLive = context.sites.liveNumber(site) !== null;
  return queries.introducedFindings(isLive ? findingsOf('live') : [], findingsOf('draft'));
}

function withoutText({ text: _, ...rest }: ReleaseRecord): Omit<ReleaseRecord, 'text'> {
  return rest;
}
