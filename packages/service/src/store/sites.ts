import type { Db } from './database.ts';
import { listStore, type ListedFile } from './lists.ts';

/** A site file that is being worked on; each save gives it the next version. */
export interface DraftRecord {
  readonly site: string;
  readonly version: number;
  readonly text: string;
  readonly savedAt: string;
}

/** A numbered state of a site file that is or was live; it never changes. */
export interface ListedRelease {
  readonly site: string;
  readonly number: number;
  readonly note: string;
  /** Why it was released although it breaks guarantees; null where it breaks none. */
  readonly override: string | null;
  readonly draftVersion: number;
  readonly releasedAt: string;
}

export interface ReleaseRecord extends ListedRelease {
  readonly text: string;
}

/** What a save or a release found in its way. */
export type Refusal =
  | { readonly refused: 'no-such-site' | 'site-exists' }
  | { readonly refused: 'changed'; readonly current: DraftRecord };

/** What a check of a draft found, kept so that the draft need not be read to be listed. */
export interface DraftCheck {
  /** The name of the site; null where the file has errors. */
  readonly name: string | null;
  readonly errors: number;
}

/** A site as it is listed. Fields of the check are null where it was never checked, or has errors. */
export interface SiteSummary {
  readonly version: number;
  readonly savedAt: string;
  readonly name: string | null;
  readonly errors: number | null;
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
export interface SiteStore {
  list(): string[];
  /** Sites that were deleted and can be restored, the last deleted first. */
  deleted(): DeletedSite[];
  /** Deletes a site, so that it can be restored; whether it was there. */
  remove(site: string, at: Date): boolean;
  /** Whether a deleted site was there to be restored. */
  restore(site: string): boolean;
  /**
   * Removes the records of sites that were deleted before a moment; they can't be restored any more.
   * @returns the ids of those sites
   */
  purge(before: Date): string[];
  add(site: string, text: string, check: DraftCheck, at: Date): DraftRecord | Refusal;
  summary(site: string): SiteSummary | null;
  /** Keeps what a check of a version of the draft found. */
  keepCheck(site: string, version: number, check: DraftCheck): void;
  draft(site: string): DraftRecord | null;
  /** Saves the draft if nobody else has since `version` was read. */
  save(
    site: string,
    version: number,
    text: string,
    check: DraftCheck,
    at: Date,
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
  listText(hash: string): string;
  release(
    site: string,
    version: number,
    why: Pick<ListedRelease, 'note' | 'override'>,
    at: Date,
  ): ReleaseRecord | Refusal;
  /** The releases of a site, the latest first; their texts stay where they are. */
  releases(site: string): ListedRelease[];
  /** The number of the release that is live; null where nothing was released. */
  liveNumber(site: string): number | null;
  /** One release, or the latest. */
  findRelease(site: string, number: number | 'latest'): ReleaseRecord | null;
}

/** The tables with what belongs to a site, those that refer to others first. */
const OF_A_SITE = [
  ...['pending_edit', 'draft_list', 'release_list', 'session', 'miss', 'redirect_use', 'traffic'],
  ...['draft', 'release'],
];
const IS_THERE = 'site_id in (select id from site where deleted_at is null)';
const DRAFT = 'site_id as site, version, text, saved_at as savedAt';
const LISTED_RELEASE =
  'site_id as site, number, note, override, draft_version as draftVersion, released_at as releasedAt';
const RELEASE = `${LISTED_RELEASE}, text`;

/** The statements on sites, drafts and releases. */
export function siteStore(db: Db): SiteStore {
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
  const forgetLists = db.prepare(
    'delete from list_text where hash not in (select hash from draft_list union select hash from release_list)',
  );
  const purge = db.transaction((before: Date): string[] => {
    const sites = toPurge.all(before.toISOString()).map(({ id }) => id);
    for (const site of sites) for (const statement of forgetSite) statement.run(site);
    if (sites.length > 0) forgetLists.run();
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
     where site_id = ? and version = ? returning ${DRAFT}`,
  );
  const addRelease = db.prepare<
    [string, string, string, string, string | null, number, string],
    ReleaseRecord
  >(
    `insert into release (site_id, number, text, note, override, draft_version, released_at)
     values (?, (select coalesce(max(number), 0) + 1 from release where site_id = ?), ?, ?, ?, ?, ?)
     returning ${RELEASE}`,
  );
  const allReleases = db.prepare<[string], ListedRelease>(
    `select ${LISTED_RELEASE} from release where site_id = ? order by number desc`,
  );
  const oneRelease = db.prepare<[string, number], ReleaseRecord>(
    `select ${RELEASE} from release where site_id = ? and number = ?`,
  );
  const latestRelease = db.prepare<[string], ReleaseRecord>(
    `select ${RELEASE} from release where site_id = ? order by number desc limit 1`,
  );

  const lastNumber = db.prepare<[string], { number: number | null }>(
    `select max(number) as number from release where site_id = ? and ${IS_THERE}`,
  );
  const summary = db.prepare<[string], SiteSummary>(
    `select draft.version, draft.saved_at as savedAt, draft.name, draft.errors, number,
       released_at as releasedAt, note, release.text = draft.text as isSameText
     from draft left join release on release.site_id = draft.site_id and number =
       (select max(number) from release where release.site_id = draft.site_id)
     where draft.site_id = ? and draft.${IS_THERE}`,
  );
  const keepCheck = db.prepare(
    'update draft set name = ?, errors = ? where site_id = ? and version = ?',
  );
  const lists = listStore(db);

  const refusal = (site: string): Refusal => {
    const current = readDraft.get(site);
    return current ? { refused: 'changed', current } : { refused: 'no-such-site' };
  };

  /** A gateway asks at each request; only `release` changes it. */
  const live = new Map<string, number | null>();
  const release = db.transaction(
    (...[site, version, why, at]: Parameters<SiteStore['release']>) => {
      const draft = readDraft.get(site);
      if (draft?.version !== version) return refusal(site);
      const { note, override } = why;
      const on = at.toISOString();
      const released = addRelease.get(site, site, draft.text, note, override, version, on)!;
      lists.keep(site, released.number);
      return released;
    },
  );

  return {
    list: () => allSites.all().map(({ id }) => id),
    deleted: () => deletedSites.all(),
    remove: (site, at) => {
      live.delete(site);
      return markDeleted.run(at.toISOString(), site).changes > 0;
    },
    restore: (site) => {
      live.delete(site);
      return unmarkDeleted.run(site).changes > 0;
    },
    purge,
    summary: (site) => summary.get(site) ?? null,
    keepCheck: (site, version, { name, errors }) => void keepCheck.run(name, errors, site, version),
    add: db.transaction((site: string, text: string, { name, errors }: DraftCheck, at: Date) => {
      if (addSite.run(site, at.toISOString()).changes === 0)
        return { refused: 'site-exists' as const };
      addDraft.run(site, text, name, errors, at.toISOString());
      return readDraft.get(site)!;
    }),
    draft: (site) => readDraft.get(site) ?? null,
    save: db.transaction(
      (site: string, version: number, text: string, { name, errors }: DraftCheck, at: Date) =>
        saveDraft.get(text, name, errors, at.toISOString(), site, version) ?? refusal(site),
    ),
    saveList: db.transaction(
      (
        site: string,
        version: number,
        list: { readonly name: string; readonly text: string | null },
        { name, errors }: DraftCheck,
        at: Date,
      ) => {
        const draft = readDraft.get(site);
        if (draft?.version !== version) return refusal(site);
        lists.put(site, list.name, list.text);
        return saveDraft.get(draft.text, name, errors, at.toISOString(), site, version)!;
      },
    ),
    lists: (site, release) =>
      release === undefined ? lists.ofDraft(site) : lists.ofRelease(site, release),
    listText: (hash) => lists.text(hash),
    release: (site, version, why, at) => {
      const released = release(site, version, why, at);
      live.delete(site);
      return released;
    },
    releases: (site) => allReleases.all(site),
    liveNumber: (site) => {
      let number = live.get(site);
      if (number === undefined) live.set(site, (number = lastNumber.get(site)!.number));
      return number;
    },
    findRelease: (site, number) =>
      (number === 'latest' ? latestRelease.get(site) : oneRelease.get(site, number)) ?? null,
  };
}
