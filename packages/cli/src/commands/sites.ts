import { createInterface } from 'node:readline/promises';
import { Option, type Command } from 'commander';
import { createClient, type ScheduledRelease, type SiteSummary } from '@kleidon/client';
import { EXIT, Stop } from '../exit.ts';
import { jsonOption, serviceOption } from '../options.ts';
import { print } from '../output/print.ts';
import { count } from '../output/style.ts';
import { printScheduled } from './release.ts';
import { sendLists } from '../lists.ts';
import { readText } from '../read-text.ts';

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
  addDeletion(sites);
}

/** Deleting a site, and taking it back. */
function addDeletion(sites: Command): void {
  sites
    .command('delete')
    .description('delete a site; it can be restored for 30 days')
    .argument('<site>', 'the site, as it is called in addresses')
    .addOption(new Option('--confirm <site>', 'its name once more, where nobody can be asked'))
    .addOption(serviceOption())
    .addHelpText('after', '\nExample:\n  kleidon sites delete www --confirm www')
    .action(async (site: string, { confirm, service }: SitesOptions & { confirm?: string }) => {
      const client = createClient(service);
      await client.site(site);
      const typed = confirm ?? (await askName(site));
      if (typed !== site)
        throw new Stop(EXIT.wrongUse, `Nothing was deleted: "${typed}" is not "${site}".`);
      await client.deleteSite(site, typed);
      print(false, null, () => `Deleted ${site}. To take it back: kleidon sites restore ${site}`);
    });

  sites
    .command('deleted')
    .description('list the deleted sites that can be restored')
    .addOption(serviceOption())
    .addOption(jsonOption())
    .action(async ({ service, json }: SitesOptions) => {
      const all = await createClient(service).deletedSites();
      print(json, { sites: all }, () =>
        all.length === 0
          ? 'No site was deleted.'
          : all
              .map(
                ({ id, deletedAt, keptUntil }) =>
                  `${id}: deleted on ${deletedAt.slice(0, 10)}, kept until ${keptUntil.slice(0, 10)}`,
              )
              .join('\n'),
      );
    });

  sites
    .command('restore')
    .description('take back a site that was deleted')
    .argument('<site>', 'the site')
    .addOption(serviceOption())
    .addOption(jsonOption())
    .action(async (site: string, { service, json }: SitesOptions) => {
      const restored = await createClient(service).restoreSite(site);
      print(json, restored, () =>
        [
          `Restored ${printSite(restored.site)}`,
          ...(restored.scheduled ? [printScheduled(restored.scheduled)] : []),
          ...(restored.cancelled ? [printCancelled(restored.cancelled)] : []),
        ].join('\n'),
      );
    });
}

const printCancelled = ({ draftVersion, takesEffectAt, note }: ScheduledRelease): string =>
  `Cancelled: version ${draftVersion} of the draft was to be released at ${takesEffectAt}, when the site was deleted: ${note}`;

async function askName(site: string): Promise<string> {
  if (!process.stdin.isTTY || !process.stdout.isTTY)
    throw new Stop(EXIT.wrongUse, `To delete it, repeat its name: --confirm ${site}`);
  const terminal = createInterface({ input: process.stdin, output: process.stdout });
  try {
    return (await terminal.question(`Type "${site}" to delete it: `)).trim();
  } finally {
    terminal.close();
  }
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
