import { valuesIn, type Condition } from '../condition/condition.ts';
import { evaluate } from '../condition/evaluate.ts';
import { encodePathText } from '../pattern/canonical.ts';
import { fillPattern } from '../pattern/fill.ts';
import { literalOf, type Group, type Pattern } from '../pattern/pattern.ts';
import { regexpOf } from '../pattern/regexp.ts';
import type { Redirect } from './site.ts';
import { GUEST } from './visitor.ts';

/**
 * A real address of a page whose own address is a pattern, so that the grid has something to visit:
 * one for which `missing-unless` holds where such a one is easily found.
 */
export function exampleOf(pattern: Pattern, missingUnless: Condition | null): string {
  const literal = literalOf(pattern);
  if (literal !== null) return literal;
  const candidates = [...namesIn(missingUnless), '1', '2', 'a'];
  const groups = pattern.parts.filter((part): part is Group => part.is !== 'text');
  const byName = Object.fromEntries(
    groups.map((part) => [part.name, encodePathText(nameFor(part))]),
  );
  const attempts = [byName, ...candidates.map((value) => fillAll(groups, encodePathText(value)))];
  const addresses = attempts.map((filled) => [filled, fillPattern(pattern, filled)] as const);
  const isRight = ([path, address]: (typeof addresses)[number]): boolean =>
    regexpOf(pattern).matches(address) &&
    (missingUnless === null ||
      evaluate(
        missingUnless,
        { visitor: GUEST, at: 0, path, query: '' },
        { audiences: new Map(), timeZone: 'UTC' },
      ));
  return (addresses.find(isRight) ?? addresses[0]!)[1];
}

/** An address that a redirect is for. */
export function exampleOfRedirect({ host, pattern, asked }: Redirect): string {
  const path = exampleOf(pattern, null);
  const query = new URLSearchParams(asked.map(({ field, value }) => [field, value ?? 'example']));
  const address = asked.length === 0 ? path : `${path}?${query.toString()}`;
  return host === null ? address : `https://${host}${address}`;
}

const nameFor = (part: Group): string => (/^\d+$/.test(part.name) ? 'example' : part.name);

const fillAll = (groups: readonly Group[], value: string): Record<string, string> =>
  Object.fromEntries(groups.map(({ name }) => [name, value]));

function namesIn(condition: Condition | null): string[] {
  if (!condition) return [];
  return valuesIn(condition).flatMap((value) =>
    value.is === 'string' || value.is === 'number' ? [String(value.value)] : [],
  );
}
