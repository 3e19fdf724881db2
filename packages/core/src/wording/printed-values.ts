import { printCondition } from '../condition/print.ts';
import type { ReadableCondition } from '../model/clause.ts';
import type { Condition } from '../model/condition.ts';
import type { Scope } from '../model/site.ts';
import { printScope } from './reason.ts';

/** The values of reasons and findings that are conditions. */
const CONDITIONS = ['admit', 'when', 'condition', 'unmet'];

/** The values of a reason or a finding as JSON can have them: conditions and sections as a site file writes them. */
export const printedValues = (values: object): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(values).map(([name, value]) => [name, printedValue(name, value)]),
  );

function printedValue(name: string, value: unknown): unknown {
  if (Array.isArray(value))
    return name === 'scopes'
      ? (value as Scope[]).map(printScope)
      : value.map((one: unknown) => printedValue('', one));
  if (typeof value !== 'object' || value === null) return value;
  if (CONDITIONS.includes(name)) return printCondition(value as Condition);
  // Who is meant: what the condition was taken apart into is for sentences alone.
  if ('clauses' in value)
    return { condition: printCondition((value as ReadableCondition).condition) };
  return printedValues(value);
}
