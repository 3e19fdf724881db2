import { MessageChannel, type MessagePort } from 'node:worker_threads';
import { type model, queries, siteFiles, wording } from '@kleidon/core';
import { Problem } from '../calls/problem.ts';
import { packedText } from '../store/draft-versions.ts';
import { hashOfList } from '../store/lists.ts';
import {
  checkOf,
  draftOf,
  editsOf,
  fileOf,
  momentOf,
  preparedFrom,
  releasedSource,
  siteHasErrors,
  sourceOf,
  type Analysis,
} from './source.ts';
import { partsOf } from './site-parts.ts';
import type { Source } from './states.ts';

/** A site file with its lists. A list that is not in the database yet has a text. */
export interface Sent {
  readonly text: string;
  readonly lists: readonly (readonly [name: string, hash: string, text?: string])[];
}

/** A draft that was checked before it is saved. */
export interface CheckedDraft {
  /** With the patch applied. */
  readonly text: string;
  /** The name of the site; null where the file has errors. */
  readonly name: string | null;
  readonly errors: number;
  /** What was changed, a sentence each. */
  readonly says: readonly string[];
  /** The text as the history keeps it. */
  readonly packed: Uint8Array;
  /** The errors and the findings, each as JSON. */
  readonly found: { readonly errors: Uint8Array; readonly findings: Uint8Array };
}

/** The facts of a site that purchases depend on. */
export interface SiteFacts {
  readonly timeZone: string;
  readonly products: model.Site['products'];
}

/** A request for a release. */
export interface ReleaseAsked {
  readonly note: string;
  readonly override?: string | undefined;
}

const MOST_SENTENCES = 40;

/** The computing parts of calls that also write. They run in the threads of the pool. */
export function tasks(context: Analysis) {
  const { sites, states, plans } = context;
  const sourceFrom = ({ text, lists }: Sent): Source => {
    const own = new Map(lists.map(([, hash, list]) => [hash, list]));
    return {
      text,
      hashes: new Map(lists.map(([name, hash]) => [name, hash])),
      textOf: (hash) => own.get(hash) ?? sites.listText(hash),
    };
  };
  const stateOf = (site: string, state: string): Source =>
    state === 'draft' ? sourceOf(context, site) : releasedSource(context, site, state);

  return {
    /** The name of a site; also where its file has errors elsewhere. */
    nameIn: ({ text }: { readonly text: string }): string | null => {
      const site = plans.valueOf(text)['site'];
      const name =
        typeof site === 'object' && site !== null && 'name' in site ? site.name : undefined;
      return typeof name === 'string' ? name : null;
    },

    /** Checks a draft before it is saved. Throws `patch-failed`. */
    check: ({
      site,
      sent,
      patch,
      before,
    }: {
      readonly site: string;
      readonly sent: Sent;
      /** What is changed in the text before it is checked. */
      readonly patch: readonly model.PatchOperation[];
      /** What the file was, of which it is told what changed. */
      readonly before: string | null;
    }): CheckedDraft => {
      const text = siteFiles.patchSite(sent.text, patch);
      const source = sourceFrom({ ...sent, text });
      const { errors, findings } = checkOf(context, source, site);
      const name = states.read(source, fileOf(site)).prepared?.site.name ?? null;
      const says = before === null || before === text ? [] : siteFiles.changesBetween(before, text);
      const found = { errors: toJson(errors), findings: toJson(findings) };
      return { text, name, errors: errors.length, says, found, packed: packedText(text) };
    },

    /** The findings of a state that it brings, as JSON. */
    introduced: ({
      site,
      before,
      after,
    }: {
      site: string;
      before: Sent;
      after: Sent;
    }): Uint8Array => {
      const [was, is] = [before, after].map((one) => checkOf(context, sourceFrom(one), site));
      return toJson(queries.introducedFindings(was!.findings, is!.findings));
    },

    /** The findings of a state that the live release does not have, as JSON. */
    introducedByRelease: ({ site, state }: { site: string; state: string }): Uint8Array => {
      const is = checkOf(context, stateOf(site, state), site);
      const was =
        sites.liveNumber(site) === null
          ? []
          : checkOf(context, releasedSource(context, site, 'live'), site).findings;
      return toJson(queries.introducedFindings(was, is.findings));
    },

    /** What the pending changes of a set make of the draft. Throws `changes-refused`. */
    planChanges: ({ site, id }: { site: string; id: string }) => {
      const draft = draftOf(context, site);
      const pending = editsOf(context, site, id);
      if (pending.length === 0)
        throw new Problem('no-such-change', 'No changes are pending here any more.');
      const edits = pending.map(({ edit }) => edit);
      const { text, refused } = plans.plan(draft.text, edits);
      if (refused.length > 0)
        throw new Problem('changes-refused', refused.map(({ message }) => message).join(' '), {
          errors: refused.map(({ position, message, conflict }) => ({
            message,
            conflict,
            says: wording.sayEdit(edits[position]!),
          })),
        });
      return { version: draft.version, text, edits, numbers: pending.map(({ number }) => number) };
    },

    /** The draft with the remedy of a finding. Throws `fix-refused`. */
    fix: ({ site, code, about }: { site: string; code: string; about: string }): string => {
      const source = sourceOf(context, site);
      const file = fileOf(site);
      const listOf = (name: string): string | null => {
        const hash = source.hashes.get(name);
        return hash === undefined ? null : source.textOf(hash);
      };
      const { prepared, errors } = states.read(source, file);
      if (!prepared) throw siteHasErrors(errors);
      const at = context.now();
      const wanted = checkOf(context, source, site, at).findings.filter(
        (one) => one.code === code && one.about === about && one.fix !== null,
      );
      if (wanted.length === 0)
        throw new Problem(
          'fix-refused',
          `The draft has no finding ${code} about ${about} that can be fixed.`,
        );
      const { text } = source;
      const fixed = queries.tryFix({ text, name: file, listOf }, prepared, wanted, null, at);
      if (fixed.refusal !== null) throw new Problem('fix-refused', fixed.refusal);
      return fixed.text;
    },

    /**
     * Whether a state may be released.
     *
     * @throws Problem `site-has-errors`; `guarantee-broken` where it breaks a guarantee and no reason is given
     */
    mayBeReleased: ({
      site,
      state,
      asked: { note, override },
      at: moment,
    }: {
      readonly site: string;
      readonly state: string;
      readonly asked: ReleaseAsked;
      /** When it takes effect; at once where that is not said. */
      readonly at?: string | undefined;
    }): { readonly note: string; readonly override: string | null; readonly at: number } => {
      const source = stateOf(site, state);
      const at = momentOf(context, preparedFrom(context, source, fileOf(site)), moment);
      if (moment !== undefined && at <= context.now())
        throw new Problem('wrong-request', `"${moment}" is over already: name a time to come.`);
      if (!note.trim())
        throw new Problem('wrong-request', 'A release needs a note: say why it is made.');
      const { guarantees } = checkOf(context, source, site, at);
      const broken = guarantees.filter(({ is }) => is !== 'proved');
      if (broken.length > 0 && !override?.trim())
        throw new Problem('guarantee-broken', broken.map(saidOf).join(' '), { guarantees: broken });
      return { note: note.trim(), override: broken.length > 0 ? override!.trim() : null, at };
    },

    /** The effect of a state on visitors, compared with the live release; null if it cannot be computed. */
    effect: ({ site, state }: { site: string; state: string }): string[] | null => {
      if (sites.liveNumber(site) === null) return [];
      const [was, is] = ['live', state].map(
        (one) => states.read(stateOf(site, one), fileOf(site)).prepared,
      );
      if (!was || !is) return null;
      const { changes, notCompared } = queries.compareSites(was, is, context.now());
      const says = changes.map(
        ({ rule, is: how, summary }) =>
          `${rule} ${how}: ${summary.length > 0 ? summary.join('; ') : 'without effect for anyone'}`,
      );
      const left = says.length - MOST_SENTENCES;
      return [
        ...says.slice(0, MOST_SENTENCES),
        ...(left > 0 ? [`and ${left} more`] : []),
        ...(notCompared.length > 0 ? [`Not compared: ${notCompared.join(', ')}`] : []),
      ];
    },

    /** The patch from a version of the draft to the next one. */
    patchBetween: ({ before, after }: { before: string; after: string }) =>
      siteFiles.patchBetween(before, after),

    /** Null where the file has errors. */
    facts: ({ site, state }: { site: string; state: string }): SiteFacts | null => {
      const { prepared } = states.read(stateOf(site, state), fileOf(site));
      return prepared && { timeZone: prepared.site.timeZone, products: prepared.site.products };
    },

    /** A site in parts, to be read one by one. Throws `site-has-errors`. */
    parts: ({ site, state }: { site: string; state: string }): MessagePort => {
      const { port1, port2 } = new MessageChannel();
      for (const part of partsOf(preparedFrom(context, stateOf(site, state), fileOf(site)).site))
        port1.postMessage(part);
      port1.close();
      return port2;
    },
  };
}

export type Tasks = ReturnType<typeof tasks>;

/** The list as a source has it before it is kept. */
export const newList = (name: string, text: string): Sent['lists'][number] => [
  name,
  hashOfList(text),
  text,
];

const saidOf = ({ name, words, message }: queries.ListedGuarantee): string =>
  `Guarantee ${name}: ${words}. ${message}`;

export const toJson = (value: unknown): Uint8Array =>
  new TextEncoder().encode(JSON.stringify(value));
