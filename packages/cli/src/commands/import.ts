import type { Command } from 'commander';
import { addImportCrawl } from './import-crawl.ts';
import { addImportCsv } from './import-csv.ts';
import { addImportSitemap } from './import-sitemap.ts';

/** `kleidon import`: pages and visitors from what there is already. */
export function addImport(program: Command): void {
  const imports = program
    .command('import')
    .description('propose the pages or visitors that a website has already, and add them');
  addImportSitemap(imports);
  addImportCrawl(imports);
  addImportCsv(imports);
}
