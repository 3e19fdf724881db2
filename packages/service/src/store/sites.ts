import type { Db } from './database.ts';
import {
  draftVersions,
  type DraftRecord,
  type DraftVersions,
  type DraftVersionWithText,
} from './draft-versions.ts';
import { listStore, type ListedFile } from './lists.ts';
import {
  releaseStore,
  type ReleaseRecord,
  type ReleaseStore,
  type ScheduledText,
  type WhyReleased,
} from './releases.ts';

/** What a save or a release found in its way. */
export type Refusal =
  | { readonly refused: 'no-such-site' | 'site-exists' }
  | { readonly refused: 'changed'; readonly current: DraftRecord };

/** What a check of a draft found, kept so that the draft need not be read to be listed. */
export interface DraftCheck {
  /** The name of the site; null where the file has errors. */
  readonly name: string | null;
  readonly errors: number;
  /** What was changed, for the history: a sentence each. */
  readonly says?: readonly string[];
  /** The text, deflated, for the history. */
  readonly packed: Uint8Array;
}

/** A site as it is listed. Its name is null where its file has errors. */
export interface SiteSummary {
  readonly version: number;
  readonly savedAt: string;
  readonly name: string | null;
  readonly errors: number;
  /** The latest release. */
  readonly number: number | null;
  readonly releasedAt: string | null;
  readonly note: string | null;
  /** Whether its text is that of the draft. */
  readonly isSameText: 0 | 1 | null;
}

/** A site that was deleted, and can be restored. */
export interface DeletedSite {
  readonly id: string;
  readonly deletedAt: string;
}

/** Sites with their drafts and releases, as they stand in the database; deleted ones are as good as none. */
export interface SiteStore
  extends
    Omit<ReleaseStore, 'releaseDraft' | 'scheduleDraft' | 'forgetLive'>,
    Omit<DraftVersions, 'keep'> {
  list(): string[];
  /** Sites that were deleted and can be restored, the last deleted first. */
  deleted(): DeletedSite[];
  /** Deletes a site, so that it can be restored; whether it was there. */
  remove(site: string, at: Date): boolean;
  /**
   * Restores a deleted site. A release whose time passed in between is cancelled: nobody expects it any more.
   * @returns the cancelled release, if there was one; null where no such site was deleted
   */
  restore(site: string, now: Date): { readonly cancelled: ScheduledText | null } | null;
  /**
   * Removes the records of sites that were deleted before a moment; they can't be restored any more.
   * @returns the ids of those sites
   */
  purge(before: Date): string[];
  add(site: string, text: string, check: DraftCheck, at: Date): DraftRecord | Refusal;
  summary(site: string): SiteSummary | null;
  draft(site: string): DraftRecord | null;
  /** Saves the draft if nobody else has since `version` was read. */
  save(
    site: string,
    version: number,
    text: string,
    check: DraftCheck,
    at: Date,
    /** Written in the same transaction as the draft. */
    alsoDo?: () => void,
  ): DraftRecord | Refusal;
  /** Gives the draft a list beside its file, or takes it away (null), as the next version. */
  saveList(
    site: string,
    version: number,
    list: { readonly name: string; readonly text: string | null },
    check: DraftCheck,
    at: Date,
  ): DraftRecord | Refusal;
  /** The lists beside the draft, or beside a release. */
  lists(site: string, release?: number): readonly ListedFile[];
  /** Makes an earlier version of the draft the next one, with the lists that stood beside it. */
  restoreDraft(
    site: string,
    version: number,
    earlier: DraftVersionWithText,
    check: DraftCheck,
    at: Date,
  ): DraftRecord | Refusal;
  listText(hash: string): string;
  release(site: string, version: number, why: WhyReleased, at: Date): ReleaseRecord | Refusal;
  /** Settles that the draft is made live at a time. */
  schedule(
    site: string,
    version: number,
    why: Omit<WhyReleased, 'says'>,
    takesEffectAt: Date,
    at: Date,
  ): ScheduledText | Refusal | { readonly refused: 'scheduled'; readonly before: ScheduledText };
}

/** The tables with what belongs to a site, those that refer to others first. */
const OF_A_SITE = [
  ...['draft_version_list', 'draft_version', 'scheduled_release_list', 'scheduled_release'],
  ...['pending_edit', 'draft_list', 'release_list', 'session', 'miss', 'redirect_use', 'traffic'],
  ...['probe_run', 'probe_difference', 'webhook_message', 'shop_event', 'rejected_event', 'buyer'],
  'erasure',
  ...['draft', 'release'],
];
const IS_THERE = 'site_id in (select id from site where deleted_at is null)';
const DRAFT = 'site_id as site, version, text, saved_at as savedAt';
/** The statements on sites, drafts and releases. */
export function siteStore(db: Db): SiteStore {
  const lists = listStore(db);
  const versions = draftVersions(db);
  const releases = releaseStore(db);
  const allSites = db.prepare<[], { id: string }>(
    'select id from site where deleted_at is null order by id',
  );
  const deletedSites = db.prepare<[], DeletedSite>(
    'select id, deleted_at as deletedAt from site where deleted_at is not null order by deleted_at desc',
  );
  const markDeleted = db.prepare(
    'update site set deleted_at = ? where id = ? and deleted_at is null',
  );
  const unmarkDeleted = db.prepare(
    'update site set deleted_at = null where id = ? and deleted_at is not null',
  );
  const toPurge = db.prepare<[string], { id: string }>('select id from site where deleted_at < ?');
  const forgetSite = [
    ...OF_A_SITE.map((table) => `delete from ${table} where site_id = ?`),
    'delete from site where id = ?',
  ].map((statement) => db.prepare<[string]>(statement));
  const purge = db.transaction((before: Date): string[] => {
    const sites = toPurge.all(before.toISOString()).map(({ id }) => id);
    for (const site of sites) for (const statement of forgetSite) statement.run(site);
    if (sites.length > 0) lists.forget();
    return sites;
  });
  const addSite = db.prepare(
    'insert into site (id, created_at) values (?, ?) on conflict do nothing',
  );
  const addDraft = db.prepare(
    'insert into draft (site_id, text, name, errors, version, saved_at) values (?, ?, ?, ?, 1, ?)',
  );
  const readDraft = db.prepare<[string], DraftRecord>(
    `select ${DRAFT} from draft where site_id = ? and ${IS_THERE}`,
  );
  const saveDraft = db.prepare<
    [string, string | null, number, string, string, number],
    DraftRecord
  >(
    `update draft set text = ?, name = ?, errors = ?, version = version + 1, saved_at = ?
     where site_id = ? and version = ? and ${IS_THERE} returning ${DRAFT}`,
  );
  const summary = db.prepare<[string], SiteSummary>(
    `select draft.version, draft.saved_at as savedAt, draft.name,
       coalesce(draft.errors, 0) as errors, number,
       released_at as releasedAt, note, release.text = draft.text as isSameText
     from draft left join release on release.site_id = draft.site_id and number =
       (select max(number) from release where release.site_id = draft.site_id)
     where draft.site_id = ? and draft.${IS_THERE}`,
  );

  const refusal = (site: string): Refusal => {
    const current = readDraft.get(site);
    return current ? { refused: 'changed', current } : { refused: 'no-such-site' };
  };

  const saved = (
    draft: DraftRecord | undefined,
    { says = [], packed }: Pick<DraftCheck, 'says' | 'packed'>,
  ): DraftRecord | null => {
    if (!draft) return null;
    versions.keep(draft, says, packed);
    return draft;
  };
  const { releaseDraft, scheduleDraft, forgetLive, ...ofReleases } = releases;
  const { keep: _, ...ofVersions } = versions;

  return {
    list: () => allSites.all().map(({ id }) => id),
    deleted: () => deletedSites.all(),
    remove: (site, at) => {
      forgetLive(site);
      return markDeleted.run(at.toISOString(), site).changes > 0;
    },
    restore: db.transaction((site: string, now: Date) => {
      forgetLive(site);
      if (unmarkDeleted.run(site).changes === 0) return null;
      const scheduled = releases.scheduled(site);
      if (!scheduled || Date.parse(scheduled.takesEffectAt) > now.getTime())
        return { cancelled: null };
      releases.cancelScheduled(site);
      return { cancelled: scheduled };
    }),
    purge,
    summary: (site) => summary.get(site) ?? null,
    add: db.transaction((site: string, text: string, check: DraftCheck, at: Date) => {
      const { name, errors } = check;
      if (addSite.run(site, at.toISOString()).changes === 0)
        return { refused: 'site-exists' as const };
      addDraft.run(site, text, name, errors, at.toISOString());
      return saved(readDraft.get(site), check)!;
    }),
    draft: (site) => readDraft.get(site) ?? null,
    save: db.transaction(
      (
        site: string,
        version: number,
        text: string,
        check: DraftCheck,
        at: Date,
        alsoDo: () => void = () => undefined,
      ) => {
        const { name, errors } = check;
        const next = saved(
          saveDraft.get(text, name, errors, at.toISOString(), site, version),
          check,
        );
        if (next) alsoDo();
        return next ?? refusal(site);
      },
    ),
    saveList: db.transaction(
      (
        site: string,
        version: number,
        list: { readonly name: string; readonly text: string | null },
        check: DraftCheck,
        at: Date,
      ) => {
        const { name, errors } = check;
        const draft = readDraft.get(site);
        if (draft?.version !== version) return refusal(site);
        lists.put(site, list.name, list.text);
        const next = saveDraft.get(draft.text, name, errors, at.toISOString(), site, version);
        return saved(next, check)!;
      },
    ),
    restoreDraft: db.transaction(
      (...[site, version, earlier, check, at]: Parameters<SiteStore['restoreDraft']>) => {
        if (readDraft.get(site)?.version !== version) return refusal(site);
        lists.replace(site, earlier.lists);
        const { name, errors } = check;
        const next = saveDraft.get(earlier.text, name, errors, at.toISOString(), site, version);
        return saved(next, check)!;
      },
    ),
    lists: (site, release) =>
      release === undefined ? lists.ofDraft(site) : lists.ofRelease(site, release),
    listText: (hash) => lists.text(hash),
    release: db.transaction((site: string, version: number, why: WhyReleased, at: Date) =>
      readDraft.get(site)?.version === version ? releaseDraft(site, why, at) : refusal(site),
    ),
    schedule: db.transaction(
      (...[site, version, why, takesEffectAt, at]: Parameters<SiteStore['schedule']>) => {
        if (readDraft.get(site)?.version !== version) return refusal(site);
        const isNew = scheduleDraft(site, why, takesEffectAt, at);
        const now = releases.scheduled(site)!;
        return isNew ? now : { refused: 'scheduled' as const, before: now };
      },
    ),
    ...ofReleases,
    ...ofVersions,
  };
}
