import { Problem } from '../calls/problem.ts';
import type { Context } from './context.ts';

const MB = 1_000_000;

/**
 * Refuses what would take more of the disk than the settings give.
 *
 * @param site null for a site that is added
 * @param text what is to be written
 * @throws Problem `storage-full`
 */
export function mustHaveRoom(
  { storage, room }: Pick<Context, 'storage' | 'room'>,
  site: string | null,
  text: string,
): void {
  const more = Buffer.byteLength(text);
  if (site !== null && storage.ofSite(site) + more > room.ofSite)
    throw new Problem(
      'storage-full',
      `The drafts, releases and pending changes of "${site}" may take ${room.ofSite / MB} MB.`,
    );
  if (storage.ofAll() + more > room.ofAll)
    throw new Problem('storage-full', `All sites together may take ${room.ofAll / MB} MB.`);
}
