import { Router } from 'express';
import * as yup from 'yup';
import { valueOf } from '@kleidon/core';
import { draftOf, fileOf, sourceOf, type Context } from './context.ts';
import { listenTo } from './listen-to.ts';
import { siteFileFrom, validated } from './input.ts';
import { Problem } from './problem.ts';

const NAME = /^[a-z0-9](?:[a-z0-9-]{0,62}[a-z0-9])?$/;

/** Sites: list and add. */
export function sitesRouter(context: Context): Router {
  const router = Router();

  listenTo(router, '/api/sites', {
    get: (_request, response) => {
      response.json({ sites: context.sites.list().map((site) => summaryOf(context, site)) });
    },
    post: (request, response) => {
      const text = siteFileFrom(request);
      const { id = slugOf(nameIn(text)) } = validated(addQuery, request.query);
      if (id === undefined) {
        throw new Problem(
          'wrong-request',
          'The site file has no name that can be read; say ?id=NAME.',
        );
      }
      const added = context.sites.add(id, text, context.now());
      if ('refused' in added) throw new Problem('site-exists', `There is a site "${id}".`);
      response
        .status(201)
        .location(`/api/sites/${id}`)
        .set('ETag', `"${added.version}"`)
        .json(summaryOf(context, id));
    },
  });

  listenTo(router, '/api/sites/:site', {
    get: (request, response) => {
      const { site } = draftOf(context, request.params['site'] as string);
      response.json(summaryOf(context, site));
    },
  });

  return router;
}

const addQuery = yup.object({
  id: yup.string().matches(NAME, '"id" is made of lower-case letters, digits and "-".'),
});

function summaryOf(context: Context, id: string) {
  const draft = draftOf(context, id);
  const live = context.sites.findRelease(id, 'latest');
  const { prepared, errors } = context.states.read(sourceOf(context, id, 'draft'), fileOf(id));
  return {
    id,
    name: prepared?.site.name ?? id,
    draft: {
      version: draft.version,
      savedAt: draft.savedAt,
      errors: errors.length,
      isLive: live?.text === draft.text && hasSameLists(context, id, live.number),
    },
    live: live ? { number: live.number, releasedAt: live.releasedAt, note: live.note } : null,
  };
}

/** The name of the site, also where the file has errors elsewhere. */
function nameIn(text: string): string | undefined {
  const site = valueOf(text)['site'];
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
