import { conditions, decisions, model, queries, siteFiles, wording } from '@kleidon/core';
import type { Analyses } from '../calls/call.ts';
import { Problem } from '../calls/problem.ts';
import {
  checkOf,
  draftOf,
  editsOf,
  fileOf,
  listsOf,
  siteHasErrors,
  sourceOf,
  type Analysis,
} from './source.ts';
import type { Check } from './states.ts';

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

/** What pending edits change, and conditions as they are built. */
export function changes(context: Analysis): Analyses {
  const gridBefore = keepGrid();
  return {
    changes: ({ path: { site, changes: id } }) => {
      const draft = draftOf(context, site);
      const edits = editsOf(context, site, id);
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
    },

    effect: ({ path, query, body: { edits } }) => {
      const { site } = draftOf(context, path.site);
      edits.forEach(refuseLong);
      const before = sourceOf(context, site, query.state);
      const { text, refused } = context.plans.plan(before.text, edits);
      const sources = [before.text, text].map((one) => ({ ...before, text: one }));
      const [was, is] = sources.map((one) => context.states.read(one, fileOf(site)));
      const timeZone = is!.prepared?.site.timeZone ?? 'UTC';
      const now = Math.floor(context.now() / MINUTE) * MINUTE;
      const at = queries.readMoment(query.at, timeZone, now);
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
      const checks = change && sources.map((one) => checkOf(context, one, site, at));
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
  };
}

export function refuseLong(edit: model.Edit): void {
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
