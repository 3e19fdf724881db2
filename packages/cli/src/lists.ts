import { createHash } from 'node:crypto';
import { existsSync, realpathSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Client } from '@kleidon/client';
import { siteFiles } from '@kleidon/core';
import { EXIT, Stop } from './exit.ts';
import { readText } from './read-text.ts';

/** The name of a list: a file in the folder of the site file, never one elsewhere. */
const NAME = /^\w[\w.-]*\.csv$/i;

/** A site file with the lists beside it. */
export interface SiteText {
  readonly name: string;
  readonly text: string;
  readonly listOf: siteFiles.ListOf;
}

/** The lists in the folder of a site file. */
export function listsBeside(file: string): siteFiles.ListOf {
  const folder = file === '-' ? '.' : dirname(file);
  return (name) => {
    const list = join(folder, name);
    if (!NAME.test(name) || !existsSync(list)) return null;
    // Error messages must not show lines of files outside the folder.
    if (dirname(realpathSync(list)) !== realpathSync(folder))
      throw new Stop(
        EXIT.wrongUse,
        `The list ${list} is a link that leaves its folder. Put the file there.`,
      );
    return readText(list);
  };
}

/** The names of the lists that a site file has beside it. */
export function listsNamed(text: string): string[] {
  const names = siteFiles.valueOf(text)['redirect-lists'];
  return Array.isArray(names) ? names.filter((one): one is string => typeof one === 'string') : [];
}

/**
 * Sends the lists beside a site file to the service, those that differ from what it has.
 * @param version the version of the draft that is replaced; the current one where it is not given
 * @returns the version of the draft that has them
 */
export async function sendLists(
  client: Client,
  site: string,
  file: string,
  text: string,
  version?: number,
): Promise<number> {
  const there = await client.lists(site);
  const hashes = new Map(there.lists.map(({ name, hash }) => [name, hash]));
  const listOf = listsBeside(file);
  let current = version ?? there.version;
  for (const name of listsNamed(text)) {
    const list = listOf(name);
    // One that is missing is an error of the site file, and said to be when it is checked.
    if (list === null) continue;
    const hash = createHash('sha256').update(list).digest('hex');
    if (hashes.get(name) === hash) continue;
    current = (await client.saveList(site, current, name, list)).version;
  }
  return current;
}
