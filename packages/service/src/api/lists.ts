import { Router, type Request, type Response } from 'express';
import { checked, changed } from './drafts.ts';
import { draftOf, listsOf, type Context } from './context.ts';
import { versionFrom } from './input.ts';
import { listenTo } from './listen-to.ts';
import { Problem } from './problem.ts';

const NAME = /^[\w][\w.-]{0,99}\.csv$/i;

/** The lists of redirects that stand beside the draft of a site, as CSV files. */
export function listsRouter(context: Context): Router {
  const router = Router();

  listenTo(router, '/api/sites/:site/lists', {
    get: (request, response) => {
      const draft = draftOf(context, request.params['site'] as string);
      const { hashes, textOf } = listsOf(context, draft.site);
      response.json({
        version: draft.version,
        lists: [...hashes].map(([name, hash]) => ({ name, length: textOf(hash).length, hash })),
      });
    },
  });

  listenTo(router, '/api/sites/:site/lists/:list', {
    get: (request, response) => {
      const draft = draftOf(context, request.params['site'] as string);
      const name = nameFrom(request);
      const { hashes, textOf } = listsOf(context, draft.site);
      const hash = hashes.get(name);
      if (hash === undefined) throw noSuchList(draft.site, name);
      response.set('ETag', `"${draft.version}"`).type('text/csv').send(textOf(hash));
    },
    put: (request, response) => {
      if (typeof request.body !== 'string' || !request.is('text/csv'))
        throw new Problem(
          'wrong-media-type',
          `The body came as ${request.get('Content-Type') ?? 'nothing'}; a list is text/csv.`,
        );
      save(request, response, request.body);
    },
    delete: (request, response) => {
      const draft = draftOf(context, request.params['site'] as string);
      const name = nameFrom(request);
      if (!listsOf(context, draft.site).hashes.has(name)) throw noSuchList(draft.site, name);
      save(request, response, null);
    },
  });

  const save = (request: Request, response: Response, text: string | null): void => {
    const { site } = draftOf(context, request.params['site'] as string);
    const version = versionFrom(request);
    const saved = context.sites.saveList(site, version, nameFrom(request), text, context.now());
    if ('refused' in saved) throw changed(site, version, saved);
    response.set('ETag', `"${saved.version}"`).json(checked(context, saved));
  };

  return router;
}

function nameFrom(request: Request): string {
  const name = request.params['list'] as string;
  if (NAME.test(name)) return name;
  throw new Problem(
    'wrong-request',
    `"${name}" can't be the name of a list: it is letters, digits, ".", "-" and "_", and ends in .csv.`,
  );
}

const noSuchList = (site: string, name: string): Problem =>
  new Problem('no-such-list', `The draft of "${site}" has no list ${name}.`);
