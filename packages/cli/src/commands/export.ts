import type { Command } from 'commander';
import {
  REDIRECT_COLUMNS,
  SitemapProblem,
  valueOf,
  writeRobots,
  writeSitemap,
  writeTable,
  type PreparedSite,
} from '@kleidon/core';
import { EXIT, Stop } from '../exit.ts';
import { serviceOption, siteOption, type TargetOptions } from '../options.ts';
import { Option } from 'commander';
import { preparedFrom } from '../source.ts';
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
    (prepared) => writeSitemap(prepared, Date.now()),
  );
  add(
    exports,
    'robots',
    'print a robots.txt (RFC 9309) that allows the same pages, and nothing else',
    (prepared) => writeRobots(prepared, Date.now()),
  );
  add(exports, 'redirects', 'print the redirects as CSV (RFC 4180)', (_, text) => {
    const { redirects } = valueOf(text);
    return writeTable(Array.isArray(redirects) ? (redirects as Row[]) : [], REDIRECT_COLUMNS);
  });
}

type Row = Readonly<Record<(typeof REDIRECT_COLUMNS)[number], string>>;

function add(
  exports: Command,
  name: string,
  description: string,
  write: (prepared: PreparedSite, text: string) => string,
): void {
  exports
    .command(name)
    .description(description)
    .addOption(new Option('-f, --file <file>', 'read this site file, without a service'))
    .addOption(siteOption())
    .addOption(serviceOption())
    .addHelpText(
      'after',
      `\nExample:\n  kleidon export ${name} --file www.site.yaml > ${FILES[name]}`,
    )
    .action(async (options: TargetOptions) => {
      const target = await targetFrom(options);
      try {
        process.stdout.write(write(preparedFrom(target.text, target.name), target.text));
      } catch (error) {
        if (!(error instanceof SitemapProblem)) throw error;
        throw new Stop(EXIT.failed, error.message);
      }
    });
}

const FILES: Readonly<Record<string, string>> = {
  sitemap: 'sitemap.xml',
  robots: 'robots.txt',
  redirects: 'redirects.csv',
};
