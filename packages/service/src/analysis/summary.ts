import type { Message } from '@kleidon/api';
import type { SiteStore } from '../store/sites.ts';
import { noSuchSite, type Analysis } from './source.ts';

type Sites = Pick<Analysis, 'sites'>;

/** A site as it is listed. Throws `no-such-site`. */
export function summaryFor(context: Sites, id: string): Message<'Site'> {
  const found = context.sites.summary(id);
  if (!found) throw noSuchSite(context.sites, id);
  const { number, releasedAt, note, name, errors, version, savedAt, isSameText } = found;
  return {
    id,
    name: name ?? id,
    draft: {
      version,
      savedAt,
      errors,
      isLive: number !== null && isSameText === 1 && hasSameLists(context.sites, id, number),
    },
    live: number === null || releasedAt === null ? null : { number, releasedAt, note: note ?? '' },
  };
}

function hasSameLists(sites: SiteStore, id: string, release: number): boolean {
  return JSON.stringify(sites.lists(id)) === JSON.stringify(sites.lists(id, release));
}
