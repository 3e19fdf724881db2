import { isRecord } from '../../model/plain-value.ts';
import type { EditRefusal } from '../../model/edit-refusal.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';
import { pointer } from '../yaml/pointer.ts';
import { stepsOf } from '../yaml/yaml-pointer.ts';
import { SECTIONS } from '../fields/schema.ts';
import type { SectionName } from '../../model/section.ts';
import { isSame } from './change-value.ts';

/** A change to one entry of a map or one item of a list. */
export type Change = {
  /** The way to the map or list. */
  readonly above: readonly string[];
  /** The key or index. For an item appended to a list, the length of the list. */
  readonly last: string;
} & (
  | { readonly does: 'add'; readonly value: unknown }
  | { readonly does: 'replace'; readonly value: unknown }
  | { readonly does: 'remove' }
  | { readonly does: 'rename'; readonly to: string }
);

/** Maps and lists as they are changed. */
type Container = Record<string, unknown> | unknown[];

const isContainer = (value: unknown): value is Container => Array.isArray(value) || isRecord(value);

/** A deep copy without shared parts. */
export function copyOf(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(copyOf);
  if (!isRecord(value)) return value;
  return Object.fromEntries(Object.entries(value).map(([name, item]) => [name, copyOf(item)]));
}

/** Splits moves and copies into simple operations. A test that passes becomes no operation. */
export function simpleOperations(
  root: unknown,
  operation: PatchOperation,
  fail: (refusal: EditRefusal) => Error,
): PatchOperation[] {
  const { op, path } = operation;
  if (op === 'test') {
    const steps = stepsOf(path);
    if (steps === null) throw fail({ code: 'no-pointer', path });
    const found = valueAt(root, steps);
    if (found === undefined) throw fail({ code: 'nothing-at-path', path });
    if (!isSame(found, operation.value)) throw fail({ code: 'other-value', path });
    return [];
  }
  if ((op !== 'move' && op !== 'copy') || isRename(root, operation)) return [operation];
  const { from } = operation;
  const value = valueAt(root, stepsOf(from) ?? ['']);
  if (value === undefined || from === '') throw fail({ code: 'nothing-at-path', path: from });
  if (op === 'move' && path.startsWith(`${from}/`))
    throw fail({ code: 'moved-into-itself', path: from });
  const add = { op: 'add', path, value: copyOf(value) } as const;
  return op === 'move' ? [{ op: 'remove', path: from }, add] : [add];
}

/** Whether an operation gives an entry of a map another name. */
function isRename(root: unknown, operation: PatchOperation): boolean {
  if (operation.op !== 'move') return false;
  const [from, to] = [stepsOf(operation.from), stepsOf(operation.path)];
  if (!from?.length || !to?.length) return false;
  const parent = valueAt(root, from.slice(0, -1));
  return (
    isRecord(parent) &&
    pointer(...from.slice(0, -1)) === pointer(...to.slice(0, -1)) &&
    Object.hasOwn(parent, from.at(-1)!) &&
    !Object.hasOwn(parent, to.at(-1)!)
  );
}

/** The change for a simple operation. A missing section is created. */
export function changeFor(
  root: unknown,
  operation: PatchOperation,
  fail: (refusal: EditRefusal) => Error,
): Change {
  const path = operation.op === 'move' ? operation.from : operation.path;
  const steps = stepsOf(path);
  if (!steps || steps.length === 0) throw fail({ code: 'no-pointer', path });
  const [above, last] = [steps.slice(0, -1), steps.at(-1)!];
  if (operation.op === 'add') return addition(root, above, last, operation.value, fail);
  if (valueAt(root, steps) === undefined) throw fail({ code: 'nothing-at-path', path });
  if (operation.op === 'move')
    return { does: 'rename', above, last, to: stepsOf(operation.path)!.at(-1)! };
  return operation.op === 'replace'
    ? { does: 'replace', above, last, value: plain(operation.value) }
    : { does: 'remove', above, last };
}

function addition(
  root: unknown,
  above: readonly string[],
  last: string,
  value: unknown,
  fail: (refusal: EditRefusal) => Error,
): Change {
  const parent = valueAt(root, above);
  if (Array.isArray(parent)) {
    const isPlace = last === '-' || (isIndex(last) && Number(last) <= parent.length);
    if (!isPlace) throw fail({ code: 'no-such-place', path: pointer(...above), place: last });
    const place = last === '-' ? String(parent.length) : last;
    return { does: 'add', above, last: place, value: plain(value) };
  }
  if (isRecord(parent)) {
    const does = Object.hasOwn(parent, last) ? 'replace' : 'add';
    return { does, above, last, value: plain(value) };
  }
  const isMissing = parent === undefined || parent === null;
  if (!isMissing || above.length === 0 || !isContainer(valueAt(root, above.slice(0, -1))))
    throw fail({ code: 'nothing-to-add-to', path: pointer(...above) });
  const made = isFirstOfList(above, last) ? [value] : { [last]: value };
  return addition(root, above.slice(0, -1), above.at(-1)!, made, fail);
}

/** Whether what is not there yet begins as a list. A section is what it always is, whatever its first entry is called. */
function isFirstOfList(above: readonly string[], last: string): boolean {
  const [section, ...deeper] = above;
  if (deeper.length > 0 || !Object.hasOwn(SECTIONS, section!)) return last === '-';
  return SECTIONS[section as SectionName].is === 'list' && ['-', '0'].includes(last);
}

/** Makes a change in a value. */
export function makeChange(root: unknown, change: Change): void {
  const parent = valueAt(root, change.above) as Container;
  const { last } = change;
  if (Array.isArray(parent)) {
    if (change.does === 'add') parent.splice(Number(last), 0, copyOf(change.value));
    else if (change.does === 'replace') parent[Number(last)] = copyOf(change.value);
    else parent.splice(Number(last), 1);
    return;
  }
  const value = change.does === 'rename' ? parent[last] : 'value' in change && copyOf(change.value);
  if (change.does === 'remove' || change.does === 'rename') Reflect.deleteProperty(parent, last);
  if (change.does === 'remove') return;
  const name = change.does === 'rename' ? change.to : last;
  // An entry may have any name, `__proto__` too.
  Object.defineProperty(parent, name, {
    value,
    enumerable: true,
    writable: true,
    configurable: true,
  });
}

/** The value at the end of these steps; undefined where none is. */
function valueAt(root: unknown, steps: readonly string[]): unknown {
  let value = root;
  for (const step of steps) {
    if (Array.isArray(value)) value = isIndex(step) ? (value[Number(step)] as unknown) : undefined;
    else if (isRecord(value) && Object.hasOwn(value, step)) value = value[step];
    else return undefined;
  }
  return value;
}

const isIndex = (step: string): boolean => /^(?:0|[1-9]\d*)$/.test(step);

/** A value without undefined fields, as in JSON. */
const plain = (value: unknown): unknown =>
  isContainer(value) ? (JSON.parse(JSON.stringify(value)) as unknown) : value;
