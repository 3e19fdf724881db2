import { Router, type Request, type Response } from 'express';
import { PatchProblem, patchSite, type PatchOperation } from '@kleidon/core';
import type { DraftRecord } from '../store/sites.ts';
import { draftOf, fileOf, listsOf, type Context } from './context.ts';
import { patchFrom, siteFileFrom, versionFrom } from './input.ts';
import { listenTo } from './listen-to.ts';
import { Problem } from './problem.ts';

/** The draft of a site: read it, replace it. Whoever replaces it must have seen what they replace. */
export function draftsRouter(context: Context): Router {
  const router = Router();

  listenTo(router, '/api/sites/:site/draft', {
    get: (request, response) => {
      sendText(request, response, draftOf(context, request.params['site'] as string));
    },
    patch: (request, response) => {
      const { site, text } = draftOf(context, request.params['site'] as string);
      const version = versionFrom(request);
      answer(response, savedDraft(context, site, version, patched(text, patchFrom(request))));
    },
    put: (request, response) => {
      const { site } = draftOf(context, request.params['site'] as string);
      answer(response, savedDraft(context, site, versionFrom(request), siteFileFrom(request)));
    },
  });

  return router;
}

const answer = (response: Response, saved: ReturnType<typeof savedDraft>): void =>
  void response.set('ETag', `"${saved.version}"`).json(saved);

/** Saves a draft if nobody else has since `version` was read, and checks it. Throws `draft-changed`. */
export function savedDraft(context: Context, site: string, version: number, text: string) {
  const saved = context.sites.save(site, version, text, context.now());
  if ('refused' in saved) throw changed(site, version, saved);
  return checked(context, saved);
}

/** What is answered to a save: the new version, and what is wrong with it. */
export function checked(context: Context, saved: DraftRecord) {
  const { site, text } = saved;
  const source = { text, ...listsOf(context, site) };
  const check = context.states.check(source, fileOf(site), context.now().getTime());
  return { site, version: saved.version, savedAt: saved.savedAt, ...check };
}

function patched(text: string, operations: readonly PatchOperation[]): string {
  try {
    return patchSite(text, operations);
  } catch (error) {
    if (!(error instanceof PatchProblem)) throw error;
    const { operation, message } = error;
    throw new Problem('patch-failed', `Operation ${operation + 1}: ${message}`, {
      errors: [{ pointer: `/${operation}`, message }],
    });
  }
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
export function sendText(
  request: Request,
  response: Response,
  record: { readonly text: string; readonly version?: number },
): void {
  if (record.version !== undefined) response.set('ETag', `"${record.version}"`);
  response.vary('Accept');
  if (request.accepts(['application/json', 'application/yaml']) === 'application/yaml') {
    response.type('application/yaml').send(record.text);
  } else {
    response.json(record);
  }
}
