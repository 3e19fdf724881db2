import { existsSync, writeFileSync } from 'node:fs';
import { createClient, type Client } from '@kleidon/client';
import type { ListOf } from '@kleidon/core';
import { listsBeside, listsNamed, type SiteText } from './lists.ts';
import { readText, siteFrom } from './source.ts';

/** A site file that a command changes: one on this machine, or the draft of a service. */
export interface Target extends SiteText {
  write(text: string): Promise<unknown>;
}

/**
 * The site file that the options name, as it is now.
 * @param begun what a file that is not there yet begins with; without it, such a file is an error
 */
export async function targetFrom(
  options: { readonly file?: string; readonly site?: string; readonly service: string },
  begun: string | null = null,
): Promise<Target> {
  const { file, service } = options;
  if (file !== undefined) {
    return {
      name: file,
      text: begun !== null && !existsSync(file) ? begun : readText(file),
      listOf: listsBeside(file),
      write: (text) => {
        writeFileSync(file, text);
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

async function listsOf(client: Client, site: string, text: string): Promise<ListOf> {
  const { lists } = listsNamed(text).length === 0 ? { lists: [] } : await client.lists(site);
  const texts = new Map(
    await Promise.all(
      lists.map(async ({ name }) => [name, await client.list(site, name)] as const),
    ),
  );
  return (name) => texts.get(name) ?? null;
}

/**
 * What the site file of a website begins with that has pages already: what it does not name is for the website
 * to answer, so that nothing is lost when a gateway stands before it.
 */
export const begunFor = ({ origin, host }: URL): string =>
  `kleidon: 1\nsite: { name: ${host}, address: '${origin}', undeclared: website }\npages:\n`;
