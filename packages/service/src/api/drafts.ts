import { Router, type Request, type Response } from 'express';
import type { Answer } from '@kleidon/api';
import type { model } from '@kleidon/core';
import { sentOf, unlessTooSlow } from '../analysis/analyses.ts';
import { draftOf, listed, listsOf, versionOf } from '../analysis/source.ts';
import type { CheckedDraft, Sent } from '../analysis/tasks.ts';
import { Problem } from '../calls/problem.ts';
import type { DraftRecord } from '../store/draft-versions.ts';
import type { DraftCheck } from '../store/sites.ts';
import type { Context } from './context.ts';
import { mustHaveRoom } from './room.ts';
import { registerCalls, SENT, withJson } from './register-calls.ts';

/** The draft of a site: read it, replace it. Whoever replaces it must have seen what they replace. */
export function draftsRouter(context: Context): Router {
  const router = Router();

  registerCalls(router, {
    getDraft: ({ path, request, response }) => {
      const draft = draftOf(context, path.site);
      response.set('ETag', `"${draft.version}"`);
      return textOrJson(request, response, draft);
    },

    patchDraft: async ({ path, version, body, response }) => {
      const { site, text } = draftOf(context, path.site);
      return saveDraft(context, response, { site, version, text, patch: body });
    },

    fixDraft: async ({ path, version, body: { code, about }, response }) => {
      const { site } = draftOf(context, path.site);
      const text = await context.analyses.task('fix', site, { site, code, about });
      return saveDraft(context, response, { site, version, text });
    },

    listDraftVersions: ({ path }) => {
      const { site } = draftOf(context, path.site);
      const released = new Map<number, number[]>();
      for (const { draftVersion, number } of context.sites.releases(site))
        released.set(draftVersion, [...(released.get(draftVersion) ?? []), number]);
      return {
        versions: context.sites
          .versions(site)
          .map((one) => ({ ...one, releases: released.get(one.version) ?? [] })),
      };
    },

    getDraftVersion: async ({ path }) => {
      const { site } = draftOf(context, path.site);
      const { lists: _, ...found } = versionOf(context, site, path.version);
      const before = context.sites.version(site, path.version - 1);
      const texts = before && { before: before.text, after: found.text };
      const patch = texts ? await context.analyses.task('patchBetween', site, texts) : [];
      return { ...found, patch };
    },

    restoreDraftVersion: async ({ path, version, response }) => {
      const current = draftOf(context, path.site);
      const { site } = current;
      if (current.version !== version)
        throw changed(site, version, { refused: 'changed', current });
      const earlier = versionOf(context, site, path.version);
      mustHaveRoom(context, site, earlier.text);
      const before = sentOf({ text: current.text, ...listsOf(context, site) });
      const sent = sentOf({ text: earlier.text, ...listed(context, earlier.lists) });
      const check = await checkDraft(context, { site, sent, before: current.text });
      const says = [`Version ${path.version} is restored`, ...check.says];
      const saved = context.sites.restoreDraft(
        site,
        version,
        earlier,
        { ...check, says },
        context.now(),
      );
      if ('refused' in saved) throw changed(site, version, saved);
      return sendSaved(context, response, saved, { before, check, after: sent });
    },

    saveDraft: ({ path, version, body, response }) => {
      const { site } = draftOf(context, path.site);
      return saveDraft(context, response, { site, version, text: body });
    },
  });

  return router;
}

interface Saving {
  readonly site: string;
  /** The version that was read before. */
  readonly version: number;
  readonly text: string;
  /** What is changed in the text before it is checked. */
  readonly patch?: readonly model.PatchOperation[];
  /** Written in the same transaction as the draft. */
  readonly alsoDo?: () => void;
}

/**
 * Checks a draft, saves it if nobody else has since its version was read, and answers with what was found.
 * @throws Problem `draft-changed`, `check-too-slow`, `patch-failed`
 */
export async function saveDraft(
  context: Context,
  response: Response,
  { site, version, text, patch, alsoDo }: Saving,
): Promise<typeof SENT> {
  // Told at once: a check may take a while.
  const current = draftOf(context, site);
  if (current.version !== version) throw changed(site, version, { refused: 'changed', current });
  mustHaveRoom(context, site, text);
  const before = sentOf({ text: current.text, ...listsOf(context, site) });
  const sent = { ...before, text };
  const check = await checkDraft(context, { site, sent, patch, before: current.text });
  const saved = context.sites.save(site, version, check.text, check, context.now(), alsoDo);
  if ('refused' in saved) throw changed(site, version, saved);
  return sendSaved(context, response, saved, {
    before,
    check,
    after: { ...before, text: check.text },
  });
}

/**
 * Checks a draft before it is saved.
 * @throws Problem `check-too-slow` where that takes too long: it would do so again each time somebody looks
 */
export async function checkDraft(
  { analyses }: Pick<Context, 'analyses'>,
  {
    patch = [],
    before = null,
    ...sent
  }: {
    readonly site: string;
    readonly sent: Sent;
    readonly patch?: readonly model.PatchOperation[] | undefined;
    readonly before?: string | null;
  },
): Promise<CheckedDraft & DraftCheck> {
  const check = await unlessTooSlow(
    analyses.task('check', sent.site, { ...sent, patch, before }),
    null,
  );
  if (check) return check;
  throw new Problem('check-too-slow', 'The check of the site file was given up.');
}

const NONE = new TextEncoder().encode('[]');

/** Answers with a draft that was saved, and with what is wrong with it. */
export async function sendSaved(
  { analyses }: Pick<Context, 'analyses'>,
  response: Response,
  { site, version, savedAt }: DraftRecord,
  { before, check, after }: { before: Sent; check: CheckedDraft; after: Sent },
): Promise<typeof SENT> {
  // It is saved. That the check of the version before fails is no reason to say otherwise.
  const introduced = await analyses
    .task('introduced', site, { site, before, after })
    .catch(() => NONE);
  response
    .set('ETag', `"${version}"`)
    .type('json')
    .send(withJson({ site, version, savedAt }, { ...check.found, introduced }));
  return SENT;
}

/** Why a save or a release was refused. */
export function changed(
  site: string,
  version: number,
  refusal: { refused: string; current?: DraftRecord },
): Problem {
  const { current } = refusal;
  if (!current) return new Problem('no-such-site', `There is no site "${site}".`);
  return new Problem(
    'draft-changed',
    `You have version ${version} of the draft; version ${current.version} was saved at ${current.savedAt}.`,
    { version: current.version, savedAt: current.savedAt },
  );
}

/** Sends a site file as YAML or as JSON around it, whichever the client prefers. */
export function textOrJson<T extends Answer<'getDraft'> | Answer<'getRelease'>>(
  request: Request,
  response: Response,
  record: T,
): T | typeof SENT {
  response.vary('Accept');
  if (request.accepts(['application/json', 'application/yaml']) !== 'application/yaml')
    return record;
  response.type('application/yaml').send(record.text);
  return SENT;
}
