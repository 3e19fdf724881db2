import { isDeepStrictEqual } from 'node:util';
import { Router } from 'express';
import { siteFiles, type model } from '@kleidon/core';
import { refuseLong } from '../analysis/changes.ts';
import { draftOf, editsOf } from '../analysis/source.ts';
import { Problem } from '../calls/problem.ts';
import type { Context } from './context.ts';
import { saveDraft } from './drafts.ts';
import { mustHaveRoom } from './room.ts';
import {
  registerAnalyses,
  registerCalls,
  sendAnalysis,
  type Call,
  type SENT,
} from './register-calls.ts';

/** Pending edits, which are saved together. */
export function changesRouter(context: Context): Router {
  const router = Router();
  const place = (path: { readonly site: string; readonly changes: string }) => ({
    site: draftOf(context, path.site).site,
    id: path.changes,
  });
  /** Answers with all changes that are pending now. */
  const shown = (
    call: Pick<Call<'dropChanges'>, 'path' | 'request' | 'response'>,
    status = 200,
  ): Promise<typeof SENT> => {
    const { site, changes } = call.path;
    const job = { call: 'changes', path: { site, changes }, query: {} } as const;
    return sendAnalysis(context.analyses, call, job, status);
  };

  registerAnalyses(router, context.analyses, ['effect', 'readCondition', 'document']);
  registerCalls(router, {
    changes: (call) => shown(call),

    addChange: (call) => {
      const { site, id } = place(call.path);
      const edit = call.body;
      refuseLong(edit);
      const same = samePut(editsOf(context, site, id), edit);
      const added = JSON.stringify(same?.edit ?? edit);
      mustHaveRoom(context, site, added);
      if (!context.pending.add(site, id, added, context.now(), same?.number ?? null))
        throw new Problem(
          'wrong-request',
          'There are too many pending changes; save or drop some first.',
        );
      return shown(call, 201);
    },

    dropChanges: (call) => {
      const { site, id } = place(call.path);
      context.pending.dropAll(site, id);
      return shown(call);
    },

    dropChange: (call) => {
      const { site, id } = place(call.path);
      if (!context.pending.drop(site, id, call.path.number))
        throw new Problem('no-such-change', 'This change is not pending here any more.');
      return shown(call);
    },

    saveChanges: async ({ path, response }) => {
      const { site, id } = place(path);
      const planned = await context.analyses.task('planChanges', site, { site, id });
      const { version, text, edits, numbers } = planned;
      // Edits added during the check stay pending.
      const alsoDo = (): void =>
        context.pending.saved(site, id, numbers, (left) =>
          JSON.stringify(siteFiles.afterSaved(JSON.parse(left) as model.Edit, edits)),
        );
      return saveDraft(context, response, { site, version, text, alsoDo });
    },
  });

  return router;
}

/**
 * A later edit of the same entry replaces the earlier one, if all edits between are of other entries. It keeps the
 * earlier `was`, unless its author saw another value.
 */
function samePut(
  waiting: readonly { readonly number: number; readonly edit: model.Edit }[],
  edit: model.Edit,
): { readonly number: number; readonly edit: model.Edit } | null {
  if (edit.do !== 'put') return null;
  for (const { number, edit: other } of [...waiting].reverse()) {
    if (other.do !== 'put') return null;
    if (other.section !== edit.section || other.name !== edit.name) continue;
    const isNext = isDeepStrictEqual(edit.was, other.value);
    return { number, edit: isNext ? { ...edit, was: other.was } : edit };
  }
  return null;
}
