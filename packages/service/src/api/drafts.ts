import { Router, type Request, type Response } from 'express';
import type { Answer, Message } from '@kleidon/api';
import { type model, queries, siteFiles } from '@kleidon/core';
import type { Checked } from '../check/checker.ts';
import type { DraftRecord } from '../store/draft-versions.ts';
import type { DraftCheck } from '../store/sites.ts';
import type { Source } from '../check/states.ts';
import {
  checkedInTime,
  draftOf,
  fileOf,
  listed,
  listsOf,
  siteHasErrors,
  versionOf,
  type Context,
} from './context.ts';
import { Problem } from './problem.ts';
import { registerCalls, SENT } from './register-calls.ts';

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
      return withETag(response, await savedDraft(context, site, version, text, body));
    },

    fixDraft: async ({ path, version, body: { code, about }, response }) => {
      const { site, text } = draftOf(context, path.site);
      const source = { text, ...listsOf(context, site) };
      const file = fileOf(site);
      const listOf = (name: string): string | null => {
        const hash = source.hashes.get(name);
        return hash === undefined ? null : source.textOf(hash);
      };
      const { prepared, errors } = context.states.read(source, file);
      if (!prepared) throw siteHasErrors(errors);
      const at = context.now().getTime();
      const wanted = queries
        .inspect(prepared, file, at)
        .filter((one) => one.code === code && one.about === about && one.fix !== null);
      if (wanted.length === 0)
        throw new Problem(
          'fix-refused',
          `The draft has no finding ${code} about ${about} that can be fixed.`,
        );
      const fixed = queries.tryFix({ text, name: file, listOf }, prepared, wanted, null, at);
      if (fixed.refusal !== null) throw new Problem('fix-refused', fixed.refusal);
      return withETag(response, await savedDraft(context, site, version, fixed.text));
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

    getDraftVersion: ({ path }) => {
      const { site } = draftOf(context, path.site);
      const { lists: _, ...found } = versionOf(context, site, path.version);
      const before = context.sites.version(site, path.version - 1);
      return { ...found, patch: before ? siteFiles.patchBetween(before.text, found.text) : [] };
    },

    restoreDraftVersion: async ({ path, version, response }) => {
      const current = draftOf(context, path.site);
      const { site } = current;
      if (current.version !== version)
        throw changed(site, version, { refused: 'changed', current });
      const earlier = versionOf(context, site, path.version);
      const source = {
        text: earlier.text,
        ...listed(context, earlier.lists),
      };
      const before = { text: current.text, ...listsOf(context, site) };
      const check = await checkedInTime(context, site, source, { before: current.text });
      const says = [`Version ${path.version} is restored`, ...check.says];
      const summary = summaryOf({ ...check, says });
      const saved = context.sites.restoreDraft(site, version, earlier, summary, context.now());
      if ('refused' in saved) throw changed(site, version, saved);
      return withETag(response, await afterSave(context, saved, before, check));
    },

    saveDraft: async ({ path, version, body, response }) => {
      const { site } = draftOf(context, path.site);
      return withETag(response, await savedDraft(context, site, version, body));
    },
  });

  return router;
}

/** Sets the version of a draft that was saved as the ETag of the answer. */
export function withETag(response: Response, saved: Message<'SavedDraft'>): Message<'SavedDraft'> {
  response.set('ETag', `"${saved.version}"`);
  return saved;
}

/**
 * Saves a draft if nobody else has since `version` was read, and checks it.
 * @param patch what is changed in the text before
 * @param alsoDo written in the same transaction as the draft
 * @throws Problem `draft-changed`, `check-too-slow`, `patch-failed`
 */
export async function savedDraft(
  context: Context,
  site: string,
  version: number,
  text: string,
  patch: readonly model.PatchOperation[] = [],
  alsoDo?: () => void,
): Promise<Message<'SavedDraft'>> {
  // Told at once: a check may take a while.
  const current = draftOf(context, site);
  if (current.version !== version) throw changed(site, version, { refused: 'changed', current });
  const source = { text, ...listsOf(context, site) };
  const before = { ...source, text: current.text };
  const at = context.now().getTime();
  const check = await checkedInTime(context, site, source, { patch, before: current.text });
  context.states.keep({ ...source, text: check.text }, fileOf(site), at, check);
  const summary = summaryOf(check);
  const saved = context.sites.save(site, version, check.text, summary, context.now(), alsoDo);
  if ('refused' in saved) throw changed(site, version, saved);
  return await afterSave(context, saved, before, check);
}

/** What is answered to a save: the new version, and what is wrong with it. */
export async function afterSave(
  context: Context,
  { site, version, savedAt }: DraftRecord,
  before: Source,
  { errors, findings }: Checked,
): Promise<Message<'SavedDraft'>> {
  // It is saved, and answered to, also where the check of what was there before was given up.
  const was = await context.states.check(before, fileOf(site), context.now().getTime());
  const introduced = was ? queries.introducedFindings(was.findings, findings) : [];
  return { site, version, savedAt, errors, findings, introduced };
}

/** What is kept of a check. */
export const summaryOf = ({ name, errors, says }: Checked): DraftCheck => ({
  name,
  errors: errors.length,
  says,
});

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
