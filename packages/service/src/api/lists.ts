import { Router, type Response } from 'express';
import { sentOf } from '../analysis/analyses.ts';
import { draftOf, listsOf } from '../analysis/source.ts';
import { newList } from '../analysis/tasks.ts';
import { Problem } from '../calls/problem.ts';
import type { Context } from './context.ts';
import { changed, checkDraft, sendSaved } from './drafts.ts';
import { mustHaveRoom } from './room.ts';
import { registerCalls, SENT } from './register-calls.ts';

/** The lists of redirects that stand beside the draft of a site, as CSV files. */
export function listsRouter(context: Context): Router {
  const router = Router();

  registerCalls(router, {
    getLists: ({ path }) => {
      const draft = draftOf(context, path.site);
      const { hashes, textOf } = listsOf(context, draft.site);
      return {
        version: draft.version,
        lists: [...hashes].map(([name, hash]) => ({ name, length: textOf(hash).length, hash })),
      };
    },

    getList: ({ path, response }) => {
      const draft = draftOf(context, path.site);
      const { hashes, textOf } = listsOf(context, draft.site);
      const hash = hashes.get(path.list);
      if (hash === undefined) throw noSuchList(draft.site, path.list);
      response.set('ETag', `"${draft.version}"`).type('text/csv').send(textOf(hash));
      return SENT;
    },

    saveList: ({ path, version, body, response }) =>
      save(response, path.site, version, path.list, body),

    removeList: ({ path, version, response }) => {
      const draft = draftOf(context, path.site);
      if (!listsOf(context, draft.site).hashes.has(path.list))
        throw noSuchList(draft.site, path.list);
      return save(response, draft.site, version, path.list, null);
    },
  });

  const save = async (
    response: Response,
    id: string,
    version: number,
    name: string,
    text: string | null,
  ): Promise<typeof SENT> => {
    const current = draftOf(context, id);
    const { site } = current;
    if (current.version !== version) throw changed(site, version, { refused: 'changed', current });
    if (text !== null) mustHaveRoom(context, site, text);
    const before = sentOf({ text: current.text, ...listsOf(context, site) });
    const others = before.lists.filter(([one]) => one !== name);
    const after = {
      text: current.text,
      lists: text === null ? others : [...others, newList(name, text)],
    };
    const check = await checkDraft(context, { site, sent: after });
    const says = [text === null ? `List ${name} is removed` : `List ${name} is saved`];
    const saved = context.sites.saveList(
      site,
      version,
      { name, text },
      { ...check, says },
      context.now(),
    );
    if ('refused' in saved) throw changed(site, version, saved);
    return sendSaved(context, response, saved, { before, check, after });
  };

  return router;
}

const noSuchList = (site: string, name: string): Problem =>
  new Problem('no-such-list', `The draft of "${site}" has no list ${name}.`);
