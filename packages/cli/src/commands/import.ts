import type { Command } from 'commander';
import { addPages, proposePages, type Proposal } from '@kleidon/core';
import { withTarget, type TargetOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { count, dim } from '../output/style.ts';
import { gatherSitemap } from '../sitemap.ts';
import { preparedFrom } from '../source.ts';
import { targetFrom } from '../target.ts';

/** `kleidon import`: pages from what a website has already. */
export function addImport(program: Command): void {
  const imports = program.command('import').description('add the pages that a website has already');

  withTarget(imports.command('sitemap'))
    .description('add the pages of a sitemap (sitemaps.org; index files and gzip too)')
    .argument('<source>', 'a file, or an http(s) address')
    .addHelpText(
      'after',
      `
Pages that the site file has already, or that a pattern of it covers, are kept as they are.

Examples:
  kleidon import sitemap sitemap.xml --file www.site.yaml --dry-run
  kleidon import sitemap https://www.example/sitemap.xml.gz --file www.site.yaml`,
    )
    .action(async (source: string, options: TargetOptions) => {
      const addresses = await gatherSitemap(source);
      const target = await targetFrom(options);
      const proposal = proposePages(preparedFrom(target.text, target.name), addresses);
      if (!options.dryRun && proposal.pages.length > 0)
        await target.write(addPages(target.text, proposal.pages));
      print(options.json, proposal, () =>
        printProposal(proposal, target.name, options.dryRun ?? false),
      );
    });
}

function printProposal(
  { pages, known, elsewhere, refused }: Proposal,
  name: string,
  isDryRun: boolean,
): string {
  const verb = isDryRun ? 'would be added to' : 'added to';
  return [
    ...pages.map(({ address, title }) => `+ ${address} ${dim(title)}`),
    ...refused.map((address) => `! ${address} is no address of a page`),
    `${count(pages.length, 'page')} ${verb} ${name}; ${known} already there, ${elsewhere} of other hosts, ${refused.length} refused`,
  ].join('\n');
}
