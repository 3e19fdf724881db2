import { type decisions, type model, queries } from '@kleidon/core';
import { Problem } from '../calls/problem.ts';
import type { DraftRecord, DraftVersionWithText } from '../store/draft-versions.ts';
import type { ListedFile } from '../store/lists.ts';
import type { PendingEdits } from '../store/pending-edits.ts';
import type { RecordStore } from '../store/records.ts';
import type { SiteStore } from '../store/sites.ts';
import type { Plans } from './plans.ts';
import type { Check, Source, States } from './states.ts';

/** What analyses work with: they read the database, and never write to it. */
export interface Analysis {
  readonly sites: SiteStore;
  readonly pending: PendingEdits;
  readonly records: RecordStore;
  readonly states: States;
  readonly plans: Plans;
  readonly now: () => number;
}

type Sites = Pick<Analysis, 'sites'>;

/** The draft of a site. Throws `no-such-site`. */
export function draftOf({ sites }: Sites, site: string): DraftRecord {
  const draft = sites.draft(site);
  if (!draft) throw noSuchSite(sites, site);
  return draft;
}

const MOST_NAMED = 5;

/** There is no such site; where there are few, which there are. */
export function noSuchSite(sites: SiteStore, site: string): Problem {
  const names = sites.list();
  const others =
    names.length === 0 || names.length > MOST_NAMED ? '' : ` Sites: ${names.join(', ')}.`;
  return new Problem('no-such-site', `There is no site "${site}".${others}`);
}

/** The pending edits of a set, in the order in which they are made. */
export const editsOf = (
  { pending }: Pick<Analysis, 'pending'>,
  site: string,
  id: string,
): { number: number; edit: model.Edit }[] =>
  pending
    .list(site, id)
    .map(({ number, edit }) => ({ number, edit: JSON.parse(edit) as model.Edit }));

const WITH_CHANGES = 'changes-';
const VERSION = 'version-';

/** A state of a site: `draft`, `live`, the number of a release, the draft with pending changes, or a version of it. */
export function sourceOf(
  context: Pick<Analysis, 'sites' | 'pending' | 'plans'>,
  site: string,
  state = 'draft',
): Source {
  const draft = draftOf(context, site);
  if (state === 'draft') return { text: draft.text, ...listsOf(context, site) };
  if (state.startsWith(WITH_CHANGES)) {
    const waiting = editsOf(context, site, state.slice(WITH_CHANGES.length));
    const edits = waiting.map(({ edit }) => edit);
    return { text: context.plans.plan(draft.text, edits).text, ...listsOf(context, site) };
  }
  if (state.startsWith(VERSION)) {
    const { text, lists } = versionOf(context, site, Number(state.slice(VERSION.length)));
    return { text, ...listed(context, lists) };
  }
  return releasedSource(context, site, state);
}

/** A release of a site: `live`, `scheduled`, or its number. Throws `no-such-release`. */
export function releasedSource(context: Sites, site: string, state: string): Source {
  if (state === 'scheduled') {
    const scheduled = context.sites.scheduled(site);
    if (!scheduled) throw new Problem('nothing-scheduled', `No release of "${site}" is scheduled.`);
    return { text: scheduled.text, ...listed(context, context.sites.scheduledLists(site)) };
  }
  const release = context.sites.findRelease(site, state === 'live' ? 'latest' : Number(state));
  if (release) return { text: release.text, ...listsOf(context, site, release.number) };
  throw new Problem(
    'no-such-release',
    state === 'live'
      ? `The site "${site}" has not been released yet.`
      : `The site "${site}" has no release ${state}.`,
  );
}

/** The lists beside the draft of a site, or beside a release. */
export const listsOf = (context: Sites, site: string, release?: number): Omit<Source, 'text'> =>
  listed(context, context.sites.lists(site, release));

/** Lists that stand beside a site file. */
export const listed = ({ sites }: Sites, lists: readonly ListedFile[]): Omit<Source, 'text'> => ({
  hashes: new Map(lists.map(({ name, hash }) => [name, hash])),
  textOf: (hash) => sites.listText(hash),
});

/** A version of the draft that is kept. Throws `no-such-version`. */
export function versionOf({ sites }: Sites, site: string, version: number): DraftVersionWithText {
  const found = sites.version(site, version);
  if (found) return found;
  throw new Problem(
    'no-such-version',
    `The draft of "${site}" has no version ${version} any more.`,
  );
}

/** What is wrong with a state of a site, or looks wrong. */
export const checkOf = (
  { states, now }: Analysis,
  source: Source,
  site: string,
  at = now(),
): Check => states.check(source, fileOf(site), at);

/** What the file of a site is called in errors and findings. */
export const fileOf = (site: string): string => `${site}.site.yaml`;

/** A state of a site, prepared for deciding. Throws `site-has-errors` with all of them. */
export const preparedOf = (
  context: Analysis,
  site: string,
  state?: string,
): decisions.PreparedSite => preparedFrom(context, sourceOf(context, site, state), fileOf(site));

/** A site file with the lists beside it, prepared for deciding. Throws `site-has-errors` with all of them. */
export function preparedFrom(
  { states }: Analysis,
  source: Source,
  file: string,
): decisions.PreparedSite {
  const { prepared, errors } = states.read(source, file);
  if (prepared) return prepared;
  throw siteHasErrors(errors);
}

/** All of the errors of a site file. */
export const siteHasErrors = (errors: Check['errors']): Problem =>
  new Problem(
    'site-has-errors',
    `The site file has ${errors.length} error${errors.length === 1 ? '' : 's'}.`,
    { errors },
  );

/** The moment that a call asks about, in milliseconds since 1970; now where it names none. */
export const momentOf = (
  { now }: Analysis,
  { site }: decisions.PreparedSite,
  at: string | undefined,
): number => queries.readMoment(at, site.timeZone, now());
