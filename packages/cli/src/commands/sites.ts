import { Option, type Command } from 'commander';
import { createClient, type SiteSummary } from '@kleidon/client';
import { jsonOption, serviceOption } from '../options.ts';
import { print } from '../output/print.ts';
import { count } from '../output/style.ts';
import { sendLists } from '../lists.ts';
import { readText } from '../source.ts';

interface SitesOptions {
  readonly service: string;
  readonly json?: boolean;
}

/** `kleidon sites`: the sites of a service, and adding one. */
export function addSites(program: Command): void {
  const sites = program.command('sites').description('list the sites of the service, or add one');

  sites
    .command('list', { isDefault: true })
    .description('list the sites')
    .addOption(serviceOption())
    .addOption(jsonOption())
    .action(async ({ service, json }: SitesOptions) => {
      const all = await createClient(service).sites();
      print(json, { sites: all }, () =>
        all.length === 0
          ? 'No sites yet. Add one: kleidon sites add FILE'
          : all.map(printSite).join('\n'),
      );
    });

  sites
    .command('add')
    .description('add a site with this file as its draft')
    .argument('<file>', 'a site file; - reads standard input')
    .addOption(
      new Option('--id <id>', 'what to call it in addresses; made from its name by default'),
    )
    .addOption(serviceOption())
    .addOption(jsonOption())
    .addHelpText('after', '\nExample:\n  kleidon sites add www.site.yaml --id www')
    .action(async (file: string, { id, service, json }: SitesOptions & { id?: string }) => {
      const client = createClient(service);
      const text = readText(file);
      const { id: site } = await client.addSite(text, id);
      await sendLists(client, site, file, text);
      const added = await client.site(site);
      print(json, added, () => `Added ${printSite(added)}`);
    });
}

function printSite({ id, name, draft, live }: SiteSummary): string {
  const errors = draft.errors === 0 ? '' : `, ${count(draft.errors, 'error')}`;
  const released =
    live === null
      ? 'never released'
      : draft.isLive
        ? `release ${live.number}, live`
        : `release ${live.number} is live, the draft differs`;
  return `${id}: ${name}, draft version ${draft.version}${errors}, ${released}`;
}
