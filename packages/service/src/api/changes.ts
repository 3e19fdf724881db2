import { Router } from 'express';
import * as yup from 'yup';
import { conditions, decisions, model, queries, siteFiles, wording } from '@kleidon/core';
import type { Source } from '../check/states.ts';
import { draftOf, fileOf, listsOf, sourceOf, type Context } from './context.ts';
import { savedDraft } from './drafts.ts';
import { editFrom } from './edit-input.ts';
import { asOf, jsonFrom, state, validated } from './input.ts';
import { registerRoute } from './register-route.ts';
import { Problem } from './problem.ts';

const ID = /^[a-z0-9][a-z0-9-]{3,63}$/;
const MOST_CELLS = 500;

const effectBody = yup
  .object({
    edits: yup.array().strict().required('"edits" is missing.').max(1000),
  })
  .noUnknown('"${unknown}" is not a field here.')
  .typeError('The body must be a JSON object.');

const conditionBody = yup
  .object({
    text: yup.string().strict().max(20_000),
    condition: yup.mixed<object>(),
    addresses: yup.array(yup.string().strict().required()).strict().max(100).default([]),
  })
  .noUnknown('"${unknown}" is not a field here.')
  .typeError('The body must be a JSON object.')
  .test(
    'one',
    'Send a "text" or a "condition".',
    ({ text, condition }) => (text === undefined) !== (condition === undefined),
  );

const stateQuery = yup.object({ state: state() });

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
  const place = (params: Record<string, unknown>): { site: string; id: string } => {
    const { site } = draftOf(context, params['site'] as string);
    const id = params['changes'] as string;
    if (ID.test(id)) return { site, id };
    throw new Problem(
      'wrong-request',
      'The name of a set of changes is 4 to 64 letters, digits and hyphens.',
    );
  };
  const findingsOf = (source: Source, site: string, at: number): readonly model.Finding[] =>
    context.states.check(source, fileOf(site), at).findings;
  const editsOf = (site: string, id: string): { number: number; edit: model.Edit }[] =>
    context.pending
      .list(site, id)
      .map(({ number, edit }) => ({ number, edit: JSON.parse(edit) as model.Edit }));

  const shown = (site: string, id: string): unknown => {
    const draft = draftOf(context, site);
    const edits = editsOf(site, id);
    const planned = siteFiles.planEdits(
      draft.text,
      edits.map(({ edit }) => edit),
    );
    const why = new Map(planned.refused.map(({ position, message }) => [position, message]));
    return {
      id,
      draftVersion: draft.version,
      edits: edits.map(({ number, edit }, position) => ({
        number,
        edit,
        says: wording.sayEdit(edit),
        refused: why.get(position) ?? null,
      })),
      operations: planned.operations,
      errors: context.states.read({ text: planned.text, ...listsOf(context, site) }, fileOf(site))
        .errors,
    };
  };

  registerRoute(router, '/api/sites/:site/changes/:changes', {
    get: (request, response) => {
      const { site, id } = place(request.params);
      response.json(shown(site, id));
    },
    post: (request, response) => {
      const { site, id } = place(request.params);
      const edit = editFrom(jsonFrom(request));
      const same = samePut(editsOf(site, id), edit);
      if (same !== null) context.pending.replace(site, id, same, JSON.stringify(edit));
      else if (context.pending.add(site, id, JSON.stringify(edit), context.now()) === null)
        throw new Problem(
          'wrong-request',
          'There are too many pending changes; save or drop some first.',
        );
      response.status(201).json(shown(site, id));
    },
    delete: (request, response) => {
      const { site, id } = place(request.params);
      context.pending.dropAll(site, id);
      response.json(shown(site, id));
    },
  });

  registerRoute(router, '/api/sites/:site/changes/:changes/edits/:number', {
    delete: (request, response) => {
      const { site, id } = place(request.params);
      if (!context.pending.drop(site, id, Number(request.params['number'])))
        throw new Problem('no-such-change', 'This change does not wait here any more.');
      response.json(shown(site, id));
    },
  });

  registerRoute(router, '/api/sites/:site/changes/:changes/save', {
    post: async (request, response) => {
      const { site, id } = place(request.params);
      const draft = draftOf(context, site);
      const edits = editsOf(site, id).map(({ edit }) => edit);
      const { text, refused } = siteFiles.planEdits(draft.text, edits);
      if (refused.length > 0) {
        throw new Problem('changes-refused', refused.map(({ message }) => message).join(' '), {
          errors: refused.map(({ position, message }) => ({
            message,
            says: wording.sayEdit(edits[position]!),
          })),
        });
      }
      const saved = await savedDraft(context, site, draft.version, text);
      context.pending.dropAll(site, id);
      response.set('ETag', `"${saved.version}"`).json(saved);
    },
  });

  registerRoute(router, '/api/sites/:site/effect', {
    post: (request, response) => {
      const { site } = draftOf(context, request.params['site'] as string);
      const { state: which, at: moment } = validated(asOf, request.query);
      const body = validated(effectBody, jsonFrom(request));
      const edits = (body.edits as unknown[]).map(editFrom);
      const before = sourceOf(context, site, which);
      const { text, refused } = siteFiles.planEdits(before.text, edits);
      const sources = [before.text, text].map((one) => ({ ...before, text: one }));
      const [was, is] = sources.map((one) => context.states.read(one, fileOf(site)));
      const timeZone = is!.prepared?.site.timeZone ?? 'UTC';
      const now = new Date(Math.floor(context.now().getTime() / MINUTE) * MINUTE);
      const at = queries.readMoment(moment, timeZone, now.getTime());
      const change =
        was!.prepared && is!.prepared
          ? decisions.compareGrids(
              gridBefore(was!.prepared, at),
              decisions.grid(is!.prepared, is!.prepared.site.visitors, at),
              siteFiles.movedPages(
                edits,
                was!.prepared.site.pages.map(({ address }) => address),
              ),
            )
          : null;
      response.json({
        errors: is!.errors,
        refused,
        change: change && {
          ...change,
          cells: change.cells.slice(0, MOST_CELLS),
          changed: change.cells.length,
        },
        findings: change && newFindings(...sources.map((one) => findingsOf(one, site, at))),
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
      });
    },
  });

  registerRoute(router, '/api/sites/:site/conditions', {
    post: (request, response) => {
      const { site } = draftOf(context, request.params['site'] as string);
      const { state: which } = validated(stateQuery, request.query);
      const body = validated(conditionBody, jsonFrom(request));
      const text = body.text ?? printed(body.condition);
      response.json({
        text,
        ...queries.readCondition(
          text,
          siteFiles.valueOf(sourceOf(context, site, which).text),
          body.addresses,
        ),
      });
    },
  });

  registerRoute(router, '/api/sites/:site/document', {
    get: (request, response) => {
      const { site } = draftOf(context, request.params['site'] as string);
      const query = validated(stateQuery, request.query);
      response.json(siteFiles.valueOf(sourceOf(context, site, query.state).text));
    },
  });

  return router;
}

/** The findings that were not there before; their lines may have moved. */
function newFindings(
  before: readonly model.Finding[] = [],
  after: readonly model.Finding[] = [],
): readonly model.Finding[] {
  const known = new Set(before.map(({ code, about, message }) => `${code}\n${about}\n${message}`));
  return after.filter(({ code, about, message }) => !known.has(`${code}\n${about}\n${message}`));
}

/** An edit of the same entry takes the place of the one before, unless something happened in between. */
function samePut(
  waiting: readonly { readonly number: number; readonly edit: model.Edit }[],
  edit: model.Edit,
): number | null {
  if (edit.do !== 'put') return null;
  for (const { number, edit: other } of [...waiting].reverse()) {
    if (other.do !== 'put') return null;
    if (other.section === edit.section && other.name === edit.name) return number;
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
