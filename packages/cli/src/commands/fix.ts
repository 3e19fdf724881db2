import { Option, type Command } from 'commander';
import { type model, queries } from '@kleidon/core';
import { EXIT, Stop } from '../exit.ts';
import { withTarget, type TargetOptions } from '../options.ts';
import { print } from '../output/print.ts';
import { count } from '../output/style.ts';
import { preparedFrom } from '../source/of-file.ts';
import { targetFrom } from '../target.ts';

interface FixOptions extends TargetOptions {
  readonly about?: string;
  readonly accept?: string;
}

/** `kleidon fix`: applies the remedy of a finding, or accepts it with a note. */
export function addFix(program: Command): void {
  withTarget(program.command('fix'))
    .description(
      'apply the remedy of a finding to the site file, or accept the finding with a note',
    )
    .argument('<finding>', 'the code of the finding, such as date-passed')
    .addOption(
      new Option('--about <what>', 'only the finding about this, such as "gate crew-room"'),
    )
    .addOption(new Option('--accept <note>', 'accept it, with the reason in the site file'))
    .addHelpText(
      'after',
      `
The result is checked before it is written: the finding is gone, no other one came, and for no visitor anything
else changes. Where that is not so, the file stays as it is, and the exit code is 1.

Examples:
  kleidon fix sign-in-closed --file www.site.yaml
  kleidon fix open-beneath --about 'gate visitors-book' --accept 'Everyone may sign it' --file www.site.yaml`,
    )
    .action(async (code: string, options: FixOptions) => {
      const target = await targetFrom(options);
      const prepared = preparedFrom(target);
      const findings = queries.inspect(prepared, target.name, Date.now());
      const wanted = findings.filter(
        (one) => one.code === code && (options.about ?? one.about) === one.about,
      );
      if (wanted.length === 0) throw new Stop(EXIT.wrongUse, noSuch(code, findings));
      const { accept } = options;
      const fixed = accept === undefined ? wanted.filter(({ fix }) => fix !== null) : wanted;
      const [first] = wanted;
      if (fixed.length === 0) {
        throw new Stop(
          EXIT.failed,
          `No small change fixes this. ${first!.message} ${first!.remedy}`,
        );
      }
      const { text, patch, refusal } = queries.tryFix(
        target,
        prepared,
        fixed,
        accept ?? null,
        Date.now(),
      );
      if (refusal !== null)
        throw new Stop(EXIT.failed, `Nothing was changed in ${target.name}. ${refusal}`);
      if (!options.dryRun) await target.write(text);
      print(options.json, { fixed, patch }, () =>
        [
          ...fixed.map(({ about, message }) => `${about}: ${message}`),
          `${count(fixed.length, 'finding')} ${options.dryRun ? 'would be ' : ''}${accept === undefined ? 'fixed' : 'accepted'} in ${target.name}`,
        ].join('\n'),
      );
    });
}

function noSuch(code: string, findings: readonly model.Finding[]): string {
  const there = [...new Set(findings.map((one) => one.code))].join(', ') || 'none';
  return `There is no such finding: ${code}. Those that there are: ${there}.`;
}
