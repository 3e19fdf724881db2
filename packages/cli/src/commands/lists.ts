import { basename } from 'node:path';
import type { Command } from 'commander';
import { createClient, type SavedDraft } from '@kleidon/client';
import { jsonOption, serviceOption, siteOption } from '../options.ts';
import { printCheck } from '../output/check.ts';
import { print } from '../output/print.ts';
import { count } from '../output/style.ts';
import { readText } from '../read-text.ts';
import { siteFrom } from '../site-from.ts';

interface ListsOptions {
  readonly site?: string;
  readonly service: string;
  readonly json?: boolean;
}

/** `kleidon lists`: the lists of redirects that stand beside the draft of a site. */
export function addLists(program: Command): void {
  const lists = program
    .command('lists')
    .description('the lists of redirects beside the draft: CSV files that the site file names');
  const add = (name: string, description: string, example: string): Command =>
    lists
      .command(name)
      .description(description)
      .addOption(siteOption())
      .addOption(serviceOption())
      .addOption(jsonOption())
      .addHelpText('after', `\nExample:\n  kleidon lists ${example}`);

  add('show', 'say which there are', 'show --site www').action(
    async ({ service, json, ...options }: ListsOptions) => {
      const client = createClient(service);
      const there = await client.lists(await siteFrom(client, options));
      print(json, there, () =>
        there.lists.length === 0
          ? 'No lists.'
          : there.lists
              .map(({ name, length }) => `${name}  ${count(length, 'character')}`)
              .join('\n'),
      );
    },
  );

  add('get', 'print a list', 'get old-site.csv --site www > old-site.csv')
    .argument('<name>', 'the name of the list')
    .action(async (name: string, { service, json, ...options }: ListsOptions) => {
      const client = createClient(service);
      const text = await client.list(await siteFrom(client, options), name);
      if (json) print(json, { name, text }, () => '');
      else process.stdout.write(text);
    });

  add('put', 'put a list beside the draft, or replace it', 'put old-site.csv --site www')
    .argument('<file>', 'a CSV file; its name is the name of the list')
    .action(async (file: string, { service, json, ...options }: ListsOptions) => {
      const client = createClient(service);
      const site = await siteFrom(client, options);
      const { version } = await client.lists(site);
      const saved = await client.saveList(site, version, basename(file), readText(file));
      print(json, saved, () => said(`Put ${basename(file)} beside`, saved));
    });

  add('remove', 'take a list away from the draft', 'remove old-site.csv --site www')
    .argument('<name>', 'the name of the list')
    .action(async (name: string, { service, json, ...options }: ListsOptions) => {
      const client = createClient(service);
      const site = await siteFrom(client, options);
      const { version } = await client.lists(site);
      const saved = await client.removeList(site, version, name);
      print(json, saved, () => said(`Took ${name} away from`, saved));
    });
}

const said = (what: string, saved: SavedDraft): string =>
  `${what} ${saved.site}, version ${saved.version}.\n${printCheck(saved, saved)}`;
