import { Router } from 'express';
import type { Message } from '@kleidon/api';
import { afterSave, changed, summaryOf, withETag } from './drafts.ts';
import { checkedInTime, draftOf, listsOf, type Context } from './context.ts';
import { Problem } from './problem.ts';
import { registerCalls, SENT } from './register-calls.ts';

/** Stands for the hash of a list that is not kept yet. */
const NEW_LIST = 'new';

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

    saveList: async ({ path, version, body, response }) =>
      withETag(response, await save(path.site, version, path.list, body)),

    removeList: async ({ path, version, response }) => {
      const draft = draftOf(context, path.site);
      if (!listsOf(context, draft.site).hashes.has(path.list))
        throw noSuchList(draft.site, path.list);
      return withETag(response, await save(draft.site, version, path.list, null));
    },
  });

  const save = async (
    id: string,
    version: number,
    name: string,
    text: string | null,
  ): Promise<Message<'SavedDraft'>> => {
    const current = draftOf(context, id);
    const { site } = current;
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
      {
        ...summaryOf(check),
        says: [text === null ? `List ${name} is removed` : `List ${name} is saved`],
      },
      context.now(),
    );
    if ('refused' in saved) throw changed(site, version, saved);
    return afterSave(context, saved, before, check);
  };

  return router;
}

const noSuchList = (site: string, name: string): Problem =>
  new Problem('no-such-list', `The draft of "${site}" has no list ${name}.`);
