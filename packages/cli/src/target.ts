import { existsSync } from 'node:fs';
import { createClient, type Client } from '@kleidon/client';
import { siteFiles } from '@kleidon/core';
import { listsBeside, listsNamed, type SiteText } from './lists.ts';
import { readText } from './read-text.ts';
import { siteFrom } from './site-from.ts';
import { writeFile } from './write-file.ts';

/** A site file that a command changes: one on this machine, or the draft of a service. */
export interface Target extends SiteText {
  write(text: string): Promise<unknown>;
}

/**
 * The site file that the options name, as it is now.
 * @param initial the text of a file that does not exist yet; without it, a missing file is an error
 */
export async function targetFrom(
  options: { readonly file?: string; readonly site?: string; readonly service: string },
  initial: string | null = null,
): Promise<Target> {
  const { file, service } = options;
  if (file !== undefined) {
    const isNew = initial !== null && file !== '-' && !existsSync(file);
    const before = isNew ? initial : readText(file);
    return {
      name: file,
      text: before,
      listOf: listsBeside(file),
      write: (text) => {
        writeFile(file, text, isNew ? null : before);
        return Promise.resolve();
      },
    };
  }
  const client = createClient(service);
  const { site, version, text } = await client.draft(await siteFrom(client, options));
  return {
    name: `the draft of ${site}`,
    text,
    listOf: await listsOf(client, site, text),
    write: (changed) => client.saveDraft(site, version, changed),
  };
}

async function listsOf(client: Client, site: string, text: string): Promise<siteFiles.ListOf> {
  const { lists } = listsNamed(text).length === 0 ? { lists: [] } : await client.lists(site);
  const texts = new Map(
    await Promise.all(
      lists.map(async ({ name }) => [name, await client.list(site, name)] as const),
    ),
  );
  return (name) => texts.get(name) ?? null;
}

/**
 * A new site file for a website that exists already: the website answers for addresses that the file does not
 * name, so that nothing is lost when a gateway is put before it.
 */
export const newSiteFile = ({ origin, hostname }: URL, name = hostname): string =>
  siteFiles.patchSite(
    `kleidon: 1\nsite: { name: x, address: '${origin}', undeclared: website }\npages:\n`,
    [{ op: 'replace', path: '/site/name', value: name }],
  );
