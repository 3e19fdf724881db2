import { writeFileSync } from 'node:fs';
import { createClient, type Client } from '@kleidon/client';
import type { ListOf } from '@kleidon/core';
import { listsBeside, listsNamed, type SiteText } from './lists.ts';
import { readText, siteFrom } from './source.ts';

/** A site file that a command changes: one on this machine, or the draft of a service. */
export interface Target extends SiteText {
  write(text: string): Promise<unknown>;
}

/** The site file that the options name, as it is now. */
export async function targetFrom(options: {
  readonly file?: string;
  readonly site?: string;
  readonly service: string;
}): Promise<Target> {
  const { file, service } = options;
  if (file !== undefined) {
    return {
      name: file,
      text: readText(file),
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
