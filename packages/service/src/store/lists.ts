import { createHash } from 'node:crypto';
import type { Db } from './database.ts';

/** A list beside a site file: its name, and the hash under which its text is kept. */
export interface ListedFile {
  readonly name: string;
  readonly hash: string;
}

/** The lists beside site files. A text is kept once, however many releases have it. */
export interface ListStore {
  ofDraft(site: string): ListedFile[];
  ofRelease(site: string, number: number): ListedFile[];
  text(hash: string): string;
  /** Gives the draft a list, or takes it away where there is no text. The caller has checked the version. */
  put(site: string, name: string, text: string | null): void;
  /** Removes the texts that nothing has any more. */
  forget(): void;
  /** Gives the draft other lists in place of its own. */
  replace(site: string, lists: readonly ListedFile[]): void;
}

/** What the text of a list is kept under. */
export const hashOfList = (text: string): string => createHash('sha256').update(text).digest('hex');

/** The statements on lists. */
export function listStore(db: Db): ListStore {
  const draft = db.prepare<[string], ListedFile>(
    'select name, hash from draft_list where site_id = ? order by name',
  );
  const release = db.prepare<[string, number], ListedFile>(
    'select name, hash from release_list where site_id = ? and number = ? order by name',
  );
  const one = db.prepare<[string], { text: string }>('select text from list_text where hash = ?');
  const addText = db.prepare(
    'insert into list_text (hash, text) values (?, ?) on conflict do nothing',
  );
  const putDraft = db.prepare(
    `insert into draft_list (site_id, name, hash) values (?, ?, ?)
     on conflict do update set hash = excluded.hash`,
  );
  const removeDraft = db.prepare('delete from draft_list where site_id = ? and name = ?');
  const forget = db.prepare(
    `delete from list_text where ${[
      'draft_list',
      'release_list',
      'draft_version_list',
      'scheduled_release_list',
    ]
      .map((table) => `hash not in (select hash from ${table})`)
      .join(' and ')}`,
  );
  const removeAll = db.prepare('delete from draft_list where site_id = ?');
  return {
    ofDraft: (site) => draft.all(site),
    ofRelease: (site, number) => release.all(site, number),
    text: (hash) => one.get(hash)!.text,
    put: (site, name, text) => {
      if (text === null) removeDraft.run(site, name);
      else {
        const hash = hashOfList(text);
        addText.run(hash, text);
        putDraft.run(site, name, hash);
      }
      forget.run();
    },
    forget: () => void forget.run(),
    replace: (site, lists) => {
      removeAll.run(site);
      for (const { name, hash } of lists) putDraft.run(site, name, hash);
      forget.run();
    },
  };
}
