import { isDeepStrictEqual } from 'node:util';
import { Router } from 'express';
import type { Message } from '@kleidon/api';
import { conditions, decisions, model, queries, siteFiles, wording } from '@kleidon/core';
import type { Check } from '../check/states.ts';
import {
  checkOf,
  draftOf,
  fileOf,
  listsOf,
  siteHasErrors,
  sourceOf,
  type Context,
} from './context.ts';
import { savedDraft, withETag } from './drafts.ts';
import { Problem } from './problem.ts';
import { registerCalls } from './register-calls.ts';

const MOST_CELLS = 500;

const LONGEST_EDIT = 200_000;
const LONGEST_OF_MANY = 5_000_000;

const MINUTE = 60_000;

/** While someone types in a form, the grid before their edit stays the same: it is kept for the next key. */
function keepGrid(): (prepared: decisions.PreparedSite, at: number) => decisions.Grid {
  let cached: {
    readonly prepared: decisions.PreparedSite;
    readonly at: number;
    readonly grid: decisions.Grid;
  } | null = null;
  return (prepared, at) => {
    if (cached?.prepared !== prepared || cached.at !== at)
      cached = { prepared, at, grid: decisions.grid(prepared, prepared.site.visitors, at) };
    return cached.grid;
  };
}

/** Pending edits, which are saved together, what they would change, and conditions as they are built. */
export function changesRouter(context: Context): Router {
  const router = Router();
  const gridBefore = keepGrid();
  const place = (path: { readonly site: string; readonly changes: string }) => ({
    site: draftOf(context, path.site).site,
    id: path.changes,
  });
  const editsOf = (site: string, id: string): { number: number; edit: model.Edit }[] =>
    context.pending
      .list(site, id)
      .map(({ number, edit }) => ({ number, edit: JSON.parse(edit) as model.Edit }));

  const shown = (site: string, id: string): Message<'Changes'> => {
    const draft = draftOf(context, site);
    const edits = editsOf(site, id);
    const planned = context.plans.plan(
      draft.text,
      edits.map(({ edit }) => edit),
    );
    const why = new Map(planned.refused.map((one) => [one.position, one]));
    return {
      id,
      draftVersion: draft.version,
      edits: edits.map(({ number, edit }, position) => ({
        number,
        edit,
        says: wording.sayEdit(edit),
        refused: why.get(position)?.message ?? null,
        conflict: why.get(position)?.conflict ?? null,
      })),
      operations: planned.operations,
      errors: context.states.read({ text: planned.text, ...listsOf(context, site) }, fileOf(site))
        .errors,
    };
  };

  registerCalls(router, {
    changes: ({ path }) => {
      const { site, id } = place(path);
      return shown(site, id);
    },

    addChange: ({ path, body: edit }) => {
      const { site, id } = place(path);
      refuseLong(edit);
      const same = samePut(editsOf(site, id), edit);
      const added = JSON.stringify(same?.edit ?? edit);
      if (!context.pending.add(site, id, added, context.now(), same?.number ?? null))
        throw new Problem(
          'wrong-request',
          'There are too many pending changes; save or drop some first.',
        );
      return shown(site, id);
    },

    dropChanges: ({ path }) => {
      const { site, id } = place(path);
      context.pending.dropAll(site, id);
      return shown(site, id);
    },

    dropChange: ({ path }) => {
      const { site, id } = place(path);
      if (!context.pending.drop(site, id, path.number))
        throw new Problem('no-such-change', 'This change is not pending here any more.');
      return shown(site, id);
    },

    saveChanges: async ({ path, response }) => {
      const { site, id } = place(path);
      const draft = draftOf(context, site);
      const pending = editsOf(site, id);
      if (pending.length === 0)
        throw new Problem('no-such-change', 'No changes are pending here any more.');
      const edits = pending.map(({ edit }) => edit);
      const { text, refused } = context.plans.plan(draft.text, edits);
      if (refused.length > 0) {
        throw new Problem('changes-refused', refused.map(({ message }) => message).join(' '), {
          errors: refused.map(({ position, message, conflict }) => ({
            message,
            conflict,
            says: wording.sayEdit(edits[position]!),
          })),
        });
      }
      // Edits added during the check stay pending.
      const forget = (): void =>
        context.pending.saved(
          site,
          id,
          pending.map(({ number }) => number),
          (left) => JSON.stringify(siteFiles.afterSaved(JSON.parse(left) as model.Edit, edits)),
        );
      return withETag(response, await savedDraft(context, site, draft.version, text, [], forget));
    },

    effect: async ({ path, query, body: { edits } }) => {
      const { site } = draftOf(context, path.site);
      edits.forEach(refuseLong);
      const before = sourceOf(context, site, query.state);
      const { text, refused } = context.plans.plan(before.text, edits);
      const sources = [before.text, text].map((one) => ({ ...before, text: one }));
      const [was, is] = sources.map((one) => context.states.read(one, fileOf(site)));
      const timeZone = is!.prepared?.site.timeZone ?? 'UTC';
      const now = new Date(Math.floor(context.now().getTime() / MINUTE) * MINUTE);
      const at = queries.readMoment(query.at, timeZone, now.getTime());
      const change =
        was!.prepared && is!.prepared
          ? decisions.compareGrids(
              gridBefore(was!.prepared, at),
              decisions.grid(is!.prepared, is!.prepared.site.visitors, at),
              siteFiles.movedPages(
                edits,
                was!.prepared.site.pages.map(({ address }) => address),
                context.plans.valueOf(before.text),
              ),
            )
          : null;
      const checks =
        change &&
        (await Promise.all(sources.map((one) => checkOf(context, one, fileOf(site), at))));
      return {
        errors: is!.errors,
        refused,
        change: change && {
          ...change,
          cells: change.cells.slice(0, MOST_CELLS),
          changed: change.cells.length,
        },
        findings: checks && newFindings(checks[0]!.findings, checks[1]!.findings),
        guarantees: checks ? newlyBroken(checks[0]!.guarantees, checks[1]!.guarantees) : [],
        visits: is!.prepared
          ? queries
              .examplesOf(is!.prepared, edits)
              .map((address) =>
                queries.explainVisit(
                  is!.prepared!,
                  decisions.visit(is!.prepared!, { method: 'GET', address }, model.GUEST, at),
                ),
              )
          : [],
      };
    },

    readCondition: ({ path, query, body: { text: typed, condition, addresses } }) => {
      const { site } = draftOf(context, path.site);
      if ((typed === undefined) === (condition === undefined))
        throw new Problem('wrong-request', 'Send a "text" or a "condition".');
      const text = typed ?? printed(condition);
      const value = context.plans.valueOf(sourceOf(context, site, query.state).text);
      return { text, ...queries.readCondition(text, value, addresses ?? []) };
    },

    document: ({ path, query }) => {
      const { site } = draftOf(context, path.site);
      const source = sourceOf(context, site, query.state);
      const { errors } = context.states.read(source, fileOf(site));
      // What is not YAML has no values, which is not to say that the site had none.
      if (errors.some(({ problem }) => problem.code === 'not-yaml')) throw siteHasErrors(errors);
      return context.plans.valueOf(source.text);
    },
  });

  return router;
}

function refuseLong(edit: model.Edit): void {
  const longest = edit.do === 'put-items' ? LONGEST_OF_MANY : LONGEST_EDIT;
  if (JSON.stringify(edit).length > longest)
    throw new Problem('wrong-request', `An edit is at most ${longest} characters long.`);
}

/** The findings that were not there before; their lines may have moved. */
function newFindings(
  before: readonly model.Finding[] = [],
  after: readonly model.Finding[] = [],
): readonly model.Finding[] {
  const known = new Set(before.map(({ code, about, message }) => `${code}\n${about}\n${message}`));
  return after.filter(({ code, about, message }) => !known.has(`${code}\n${about}\n${message}`));
}

/** The guarantees that do not hold and did before, or were none before. */
function newlyBroken(before: Check['guarantees'], after: Check['guarantees']): Check['guarantees'] {
  const known = new Set(before.filter(({ is }) => is !== 'proved').map(({ words }) => words));
  return after.filter(({ is, words }) => is !== 'proved' && !known.has(words));
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

/** A condition built from choices, as text. */
function printed(condition: unknown): string {
  try {
    const text: unknown = conditions.printCondition(condition as model.Condition);
    if (typeof text === 'string') return text;
  } catch {
    // Whatever was sent, it is not a tree of the right shape.
  }
  throw new Problem('wrong-request', '"condition" is no condition.');
}
