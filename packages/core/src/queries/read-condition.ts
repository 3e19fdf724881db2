import { clausesOf } from '../condition/clauses.ts';
import type { Condition } from '../model/condition.ts';
import { printCondition } from '../condition/print.ts';
import { clausesInWords } from '../condition/words.ts';
import type { SiteValue } from '../site/edit/edit.ts';
import { prepareSite } from '../decision/prepared-site.ts';
import { titleOf } from '../reach/who-reaches.ts';
import { readSite } from '../site/read/read.ts';
import { isRecord } from '../site/fields/schema-kinds.ts';

/** A condition that was read, or why it can't be. */
export type ReadCondition =
  | {
      readonly ok: true;
      readonly condition: Condition;
      readonly text: string;
      /** Whom it fits. */
      readonly words: string;
    }
  | {
      readonly ok: false;
      /** Where in the text, from 0. */
      readonly offset: number;
      readonly message: string;
      readonly remedy: string;
    };

/**
 * Reads a condition as a gate of a site would have it: its names must be those of the site.
 *
 * @param site the site file as plain values; it may have errors elsewhere
 * @param addresses where the gate stands, for the pieces of its addresses
 */
export function readCondition(
  text: string,
  site: SiteValue,
  addresses: readonly string[] = [],
): ReadCondition {
  const { roles, groups, products, audiences } = site;
  const names = Object.entries({ roles, groups, products, audiences })
    .filter(([, value]) => isRecord(value))
    .map(([name, value]) => `${name}: ${JSON.stringify(value)}\n`);
  const where = JSON.stringify(addresses.length === 0 ? ['/'] : addresses);
  const head = `kleidon: 1\nsite: { name: x, address: https://x.invalid }\n${names.join('')}gates:\n  g:\n    under: ${where}\n`;
  const line = head.split('\n').length;
  const read = readSite(`${head}    admit: ${JSON.stringify(text)}\n`, 'condition');
  if (!read.ok) {
    const error = read.errors.find((one) => one.line === line);
    // Errors of other lines are of the site file, where they are told too.
    if (error) {
      const offset = Math.max(0, error.column - '    admit: "'.length - 1);
      return { ok: false, offset, message: error.message, remedy: error.remedy };
    }
    const first = read.errors[0]!;
    return { ok: false, offset: 0, message: first.message, remedy: first.remedy };
  }
  const prepared = prepareSite(read.site);
  const condition = read.site.gates[0]!.admit;
  const clauses = clausesOf(condition, prepared.names);
  return {
    ok: true,
    condition,
    text,
    words:
      clauses === null
        ? `anyone for whom ${printCondition(condition)}`
        : clausesInWords(clauses, { product: (name) => titleOf(prepared, name) }),
  };
}
