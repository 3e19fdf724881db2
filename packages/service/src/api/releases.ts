import { Router } from 'express';
import * as yup from 'yup';
import { type model, queries } from '@kleidon/core';
import type { ReleaseRecord } from '../store/sites.ts';
import { draftOf, fileOf, preparedOf, sourceOf, type Context } from './context.ts';
import { changed, sendText } from './drafts.ts';
import { jsonFrom, validated, versionFrom } from './input.ts';
import { registerRoute } from './register-route.ts';
import { Problem } from './problem.ts';

const releaseBody = yup
  .object({
    note: yup.string().strict().max(2000, '"note" has at most 2000 characters.'),
  })
  .noUnknown('"${unknown}" is not a field of a release.')
  .strict();

/** Releases of a site: numbered states that never change, the latest of which is live. */
export function releasesRouter(context: Context): Router {
  const router = Router();

  registerRoute(router, '/api/sites/:site/releases', {
    get: (request, response) => {
      const { site } = draftOf(context, request.params['site'] as string);
      response.json({ releases: context.sites.releases(site) });
    },
    post: (request, response) => {
      const { site } = draftOf(context, request.params['site'] as string);
      const version = versionFrom(request);
      const { note } = validated(releaseBody, jsonFrom(request));
      preparedOf(context, site, 'draft');
      const introduced = introducedBy(context, site);
      const released = context.sites.release(site, version, note ?? '', context.now());
      if ('refused' in released) throw changed(site, version, released);
      response
        .status(201)
        .location(`/api/sites/${site}/releases/${released.number}`)
        .json({ ...withoutText(released), introduced });
    },
  });

  registerRoute(router, '/api/sites/:site/releases/:number', {
    get: (request, response) => {
      const { site } = draftOf(context, request.params['site'] as string);
      const number = Number(request.params['number']);
      const release = Number.isSafeInteger(number) ? context.sites.findRelease(site, number) : null;
      if (!release)
        throw new Problem(
          'no-such-release',
          `The site "${site}" has no release ${String(request.params['number'])}.`,
        );
      sendText(request, response, release);
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
