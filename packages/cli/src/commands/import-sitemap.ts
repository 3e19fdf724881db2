import type { Command } from 'commander';
import { proposals } from '@kleidon/core';
import { propose, withProposal, type ProposalOptions } from '../proposal.ts';
import { gatherSitemap } from '../sitemap.ts';
import { preparedFrom } from '../source/of-file.ts';
import { newSiteFile, targetFrom } from '../target.ts';

/** `kleidon import sitemap`: the pages of a sitemap. */
export function addImportSitemap(imports: Command): void {
  withProposal(imports.command('sitemap'))
    .description('propose the pages of a sitemap (sitemaps.org; index files and gzip too)')
    .argument('<source>', 'a file, or an http(s) address')
    .addHelpText(
      'after',
      `
Pages that the site file has already, or that a pattern of it covers, are kept as they are.

Examples:
  kleidon import sitemap sitemap.xml --file www.site.yaml
  kleidon import sitemap https://www.example/sitemap.xml.gz --file www.site.yaml --write`,
    )
    .action(async (source: string, options: ProposalOptions) => {
      const addresses = await gatherSitemap(source);
      const [first] = addresses;
      const isAbsolute = first !== undefined && URL.canParse(first);
      const target = await targetFrom(options, isAbsolute ? newSiteFile(new URL(first)) : null);
      const proposal = proposals.proposePages(
        preparedFrom(target),
        addresses.map((address) => ({ address })),
      );
      await propose(target, proposal, options);
    });
}
