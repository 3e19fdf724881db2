import { writeFileSync } from 'node:fs';
import { createClient } from '@kleidon/client';
import { readText, siteFrom } from './source.ts';

/** A site file that a command changes: one on this machine, or the draft of a service. */
export interface Target {
  readonly name: string;
  readonly text: string;
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
    write: (changed) => client.saveDraft(site, version, changed),
  };
}
