import type { Command } from 'commander';
import { siteFiles } from '@kleidon/core';
import { print } from '../output/print.ts';

/** `kleidon schema`: the JSON Schema of site files, for editors. */
export function addSchema(program: Command): void {
  program
    .command('schema')
    .description('print the JSON Schema of site files, with which editors complete and check them')
    .addHelpText('after', '\nExample:\n  kleidon schema > site-file.schema.json')
    .action(() => print(true, siteFiles.siteFileSchema(), () => ''));
}
