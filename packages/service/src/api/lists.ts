import { Router, type Request, type Response } from 'express';
import { afterSave, changed, summaryOf } from './drafts.ts';
import { checkedInTime, draftOf, listsOf, type Context } from './context.ts';
import { versionFrom } from './input.ts';
import { registerRoute } from './register-route.ts';
import { Problem } from './problem.ts';

/** Stands for the hash of a list that is not kept yet. */
const NEW_LIST = 'new';
const NAME = /^[\w][\w.-]{0,99}\.csv$/i;

/** The lists of redirects that stand beside the draft of a site, as CSV files. */
export function listsRouter(context: Context): Router {
  const router = Router();

  registerRoute(router, '/api/sites/:site/lists', {
    get: (request, response) => {
      const draft = draftOf(context, request.params['site'] as string);
      const { hashes, textOf } = listsOf(context, draft.site);
      response.json({
        version: draft.version,
        lists: [...hashes].map(([name, hash]) => ({ name, length: textOf(hash).length, hash })),
      });
    },
  });

  registerRoute(router, '/api/sites/:site/lists/:list', {
    get: (request, response) => {
      const draft = draftOf(context, request.params['site'] as string);
      const name = nameFrom(request);
      const { hashes, textOf } = listsOf(context, draft.site);
      const hash = hashes.get(name);
      if (hash === undefined) throw noSuchList(draft.site, name);
      response.set('ETag', `"${draft.version}"`).type('text/csv').send(textOf(hash));
    },
    put: async (request, response) => {
      if (typeof request.body !== 'string' || !request.is('text/csv'))
        throw new Problem(
          'wrong-media-type',
          `The body came as ${request.get('Content-Type') ?? 'nothing'}; a list is text/csv.`,
        );
      await save(request, response, request.body);
    },
    delete: async (request, response) => {
      const draft = draftOf(context, request.params['site'] as string);
      const name = nameFrom(request);
      if (!listsOf(context, draft.site).hashes.has(name)) throw noSuchList(draft.site, name);
      await save(request, response, null);
    },
  });

  const save = async (request: Request, response: Response, text: string | null): Promise<void> => {
    const current = draftOf(context, request.params['site'] as string);
    const { site } = current;
    const version = versionFrom(request);
    const name = nameFrom(request);
    if (current.version !== version) throw changed(site, version, { refused: 'changed', current });
    const before = { text: current.text, ...listsOf(context, site) };
    const { hashes, textOf } = before;
    const next = new Map([...hashes].filter(([one]) => one !== name));
    if (text !== null) next.set(name, NEW_LIST);
    const check = await checkedInTime(context, site, {
      text: current.text,
      hashes: next,
      textOf: (hash) => (hash === NEW_LIST ? text! : textOf(hash)),
    });
    const saved = context.sites.saveList(
      site,
      version,
      { name, text },
      summaryOf(check),
      context.now(),
    );
    if ('refused' in saved) throw changed(site, version, saved);
    response.set('ETag', `"${saved.version}"`).json(afterSave(context, saved, before, check));
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
