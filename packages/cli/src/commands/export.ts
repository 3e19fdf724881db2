import { join } from 'node:path';
import type { Command } from 'commander';
import { type decisions, formats, queries, siteFiles } from '@kleidon/core';
import { writeFile } from '../write-file.ts';
import { EXIT, Stop } from '../exit.ts';
import { serviceOption, siteOption, type TargetOptions } from '../options.ts';
import { Option } from 'commander';
import { preparedFrom } from '../source/of-file.ts';
import { targetFrom } from '../target.ts';

/** `kleidon export`: what others read, written from the rules. */
export function addExport(program: Command): void {
  const exports = program
    .command('export')
    .description('write what search engines and spreadsheets read, from the rules');
  add(
    exports,
    'sitemap',
    'print a sitemap.xml: the pages that a guest reaches and that may be listed',
    (prepared) => queries.writeSitemaps(prepared, Date.now()),
  );
  add(
    exports,
    'robots',
    'print a robots.txt (RFC 9309) that allows everything and names the sitemap',
    (prepared, _, { disallowClosed = false }) => {
      if (disallowClosed) process.stderr.write(REVEALS);
      return [
        { name: 'robots.txt', text: queries.writeRobots(prepared, Date.now(), { disallowClosed }) },
      ];
    },
  ).addOption(
    new Option(
      '--disallow-closed',
      'also list the sections that are closed to guests, for all to read',
    ),
  );
  add(exports, 'redirects', 'print all redirects as CSV (RFC 4180)', ({ site }, text) => {
    const { redirects } = siteFiles.valueOf(text);
    const own = Array.isArray(redirects) ? (redirects as Row[]) : [];
    const listed = site.redirects.filter(({ place }) => place.file !== undefined);
    const rows = [...own, ...(listed.map(siteFiles.redirectEntry) as Row[])];
    return [
      {
        name: 'redirects.csv',
        text: formats.writeTable(rows.map(siteFiles.redirectForList), siteFiles.REDIRECT_COLUMNS),
      },
    ];
  });
}

const REVEALS =
  'Note: this robots.txt tells everyone which sections are closed. Gates protect them without it.\n';

interface ExportOptions extends TargetOptions {
  readonly folder?: string;
  readonly disallowClosed?: boolean;
}

type Row = Readonly<Record<(typeof siteFiles.REDIRECT_COLUMNS)[number], string>>;

function add(
  exports: Command,
  name: string,
  description: string,
  write: (
    prepared: decisions.PreparedSite,
    text: string,
    options: ExportOptions,
  ) => readonly queries.EngineFile[],
): Command {
  return exports
    .command(name)
    .description(description)
    .addOption(new Option('-f, --file <file>', 'read this site file, without a service'))
    .addOption(siteOption())
    .addOption(serviceOption())
    .addOption(new Option('-o, --folder <folder>', 'write into this folder instead of printing'))
    .addHelpText(
      'after',
      `\nExample:\n  kleidon export ${name} --file www.site.yaml --folder public`,
    )
    .action(async ({ folder, ...options }: ExportOptions) => {
      const target = await targetFrom(options);
      const files = write(preparedFrom(target), target.text, options);
      if (folder === undefined) process.stdout.write(onlyOne(files));
      else for (const file of files) writeFile(join(folder, file.name), file.text);
    });
}

/** One file goes to standard output; several are for a folder. */
function onlyOne(files: readonly queries.EngineFile[]): string {
  const [only] = files;
  if (files.length === 1) return only!.text;
  throw new Stop(
    EXIT.wrongUse,
    `These are ${files.length} files, for a sitemap has at most 50,000 addresses. Say where to write them: --folder FOLDER.`,
  );
}
