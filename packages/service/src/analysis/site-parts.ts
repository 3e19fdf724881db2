import type { model } from '@kleidon/core';

/** A part of a site that is read within a millisecond. */
export type SitePart =
  | { readonly is: 'head'; readonly site: model.Site }
  | {
      readonly is: 'more';
      readonly section: keyof model.Site;
      readonly entries: readonly unknown[];
    };

/** Entries of a part. */
const MOST = 64;

/** A site in parts: one thread reads it, and another must not stop while it takes it over. */
export function* partsOf(site: model.Site): Generator<SitePart> {
  const long = (Object.entries(site) as [keyof model.Site, unknown][]).filter(
    (entry): entry is [keyof model.Site, unknown[]] =>
      Array.isArray(entry[1]) && entry[1].length > MOST,
  );
  const head = { ...site, ...Object.fromEntries(long.map(([section]) => [section, []])) };
  yield { is: 'head', site: head };
  for (const [section, entries] of long)
    for (let at = 0; at < entries.length; at += MOST)
      yield { is: 'more', section, entries: entries.slice(at, at + MOST) };
}

/**
 * Puts a site together again, in steps.
 *
 * @param next the next part; undefined behind the last one
 */
export function* siteFrom(next: () => SitePart | undefined): Generator<undefined, model.Site> {
  const head = next();
  if (head?.is !== 'head') throw new Error('A site begins with its head.');
  const { site } = head;
  for (let part = next(); part; part = next()) {
    if (part.is === 'more') (site[part.section] as unknown[]).push(...part.entries);
    yield;
  }
  return site;
}
