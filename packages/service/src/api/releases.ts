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
      const { note = '', override } = body;
      const broken = brokenGuarantees(context, site);
      if (broken.length > 0 && !override?.trim())
        throw new Problem('guarantee-broken', broken.map(saidOf).join(' '), { guarantees: broken });
      const introduced = introducedBy(context, site);
      const why = { note, override: broken.length > 0 ? override!.trim() : null };
      const released = context.sites.release(site, version, why, context.now());
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

/** The guarantees that the draft does not keep, or of which it is not known whether it does. */
function brokenGuarantees(context: Context, site: string): readonly queries.ListedGuarantee[] {
  const at = context.now().getTime();
  const { guarantees } = context.states.check(sourceOf(context, site, 'draft'), fileOf(site), at);
  return guarantees.filter(({ is }) => is !== 'proved');
}

const saidOf = ({ name, words, message }: queries.ListedGuarantee): string =>
  `Guarantee ${name}: ${words}. ${message}`;

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
