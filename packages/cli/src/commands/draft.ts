import { Option, type Command } from 'commander';
import { createClient } from '@kleidon/client';
import { EXIT, Stop } from '../exit.ts';
import { jsonOption, serviceOption, siteOption, wholeNumber } from '../options.ts';
import { isBroken, printErrors, printIntroduced } from '../output/check.ts';
import { print } from '../output/print.ts';
import { count } from '../output/style.ts';
import { wrapped } from '../output/wrapped.ts';
import { sendLists } from '../lists.ts';
import { readText } from '../read-text.ts';
import { siteFrom } from '../site-from.ts';

interface DraftOptions {
  readonly site?: string;
  readonly service: string;
  readonly json?: boolean;
}

/** `kleidon draft`: the site file that a service is working on. */
export function addDraft(program: Command): void {
  const draft = program.command('draft').description('read or replace the draft of a site');

  draft
    .command('get', { isDefault: true })
    .description('print the draft; --json tells its version too')
    .addOption(siteOption())
    .addOption(serviceOption())
    .addOption(jsonOption())
    .addHelpText('after', '\nExample:\n  kleidon draft get --site www > www.site.yaml')
    .action(async ({ service, json, ...options }: DraftOptions) => {
      const client = createClient(service);
      const current = await client.draft(await siteFrom(client, options));
      if (json) print(json, current, () => '');
      else process.stdout.write(current.text);
    });

  draft
    .command('put')
    .description('replace the draft with a file, and the lists that stand beside it')
    .argument('<file>', 'a site file; - reads standard input')
    .addOption(
      new Option(
        '--replaces <version>',
        'the version that you edited; refused if there is a newer one',
      ).argParser(wholeNumber(1, 1e9)),
    )
    .addOption(new Option('--overwrite', 'replace whatever is there').conflicts('replaces'))
    .addOption(siteOption())
    .addOption(serviceOption())
    .addOption(jsonOption())
    .addHelpText('after', '\nExample:\n  kleidon draft put www.site.yaml --site www --replaces 7')
    .action(
      async (
        file: string,
        {
          service,
          json,
          replaces,
          overwrite,
          ...options
        }: DraftOptions & { replaces?: number; overwrite?: boolean },
      ) => {
        if (replaces === undefined && !overwrite) {
          throw new Stop(
            EXIT.wrongUse,
            'Say which version you edited with --replaces (kleidon draft get --json tells it), or --overwrite.',
          );
        }
        const text = readText(file);
        const client = createClient(service);
        const site = await siteFrom(client, options);
        const version = replaces ?? (await client.draft(site)).version;
        const saved = await client.saveDraft(
          site,
          await sendLists(client, site, file, text, version),
          text,
        );
        const check = saved.errors.length > 0 ? null : await client.check(site, 'draft');
        const broken = check?.guarantees.filter(isBroken) ?? [];
        print(json, saved, () =>
          [
            `Saved as version ${saved.version} of ${site}.`,
            ...(saved.errors.length > 0
              ? [printErrors(saved.errors)]
              : [
                  ...printIntroduced(saved.introduced, { site }),
                  ...broken.map(({ words, message }) => `! broken guarantee: ${words}. ${message}`),
                  `${count(0, 'error')}, ${count(broken.length, 'broken guarantee')}, ${count(saved.findings.length, 'finding')}`,
                ]),
          ].join('\n'),
        );
      },
    );

  draft
    .command('history')
    .description('list the versions of the draft that are kept, and what each changed')
    .addOption(siteOption())
    .addOption(serviceOption())
    .addOption(jsonOption())
    .action(async ({ service, json, ...options }: DraftOptions) => {
      const client = createClient(service);
      const versions = await client.draftVersions(await siteFrom(client, options));
      print(json, { versions }, () =>
        versions
          .map(({ version, savedAt, says, releases }) =>
            [
              `${version} at ${savedAt}${releases.length > 0 ? ` (released as ${releases.join(', ')})` : ''}`,
              ...says.map((one) => wrapped('  ', one)),
            ].join('\n'),
          )
          .join('\n'),
      );
    });

  draft
    .command('restore')
    .description('make an earlier version of the draft the next one')
    .argument('<version>', 'its number', wholeNumber(1, 1e9))
    .addOption(siteOption())
    .addOption(serviceOption())
    .addOption(jsonOption())
    .addHelpText('after', '\nExample:\n  kleidon draft restore 7 --site www')
    .action(async (version: number, { service, json, ...options }: DraftOptions) => {
      const client = createClient(service);
      const site = await siteFrom(client, options);
      const current = await client.draft(site);
      const saved = await client.restoreDraft(site, current.version, version);
      print(
        json,
        saved,
        () => `Version ${version} is restored, as version ${saved.version} of ${site}.`,
      );
    });
}
