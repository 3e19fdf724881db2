import { isCollection, isMap, isSeq, type Document, type YAMLSeq } from 'yaml';
import { runOfFlowEntries, runOfSplices } from './patch-runs.ts';
import { parsed, removal, replacement, rewrite, spliced } from './patch-text.ts';
import { pointer } from '../yaml/pointer.ts';
import { endOf, indentationOf, insertAfter, lineFor, type Collection } from '../yaml/yaml-lines.ts';
import { childOf, nodeAt, stepsOf } from '../yaml/yaml-pointer.ts';
import { describeRefusal } from '../../wording/edit-refusal.ts';
import type { EditRefusal } from '../../model/edit-refusal.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';

/** Why a patch could not be applied: which operation, and what is wrong with it. */
export class PatchProblem extends Error {
  constructor(
    readonly operation: number,
    readonly refusal: EditRefusal,
  ) {
    super(describeRefusal(refusal));
  }
}

/**
 * Applies a JSON Patch (RFC 6902) to a site file. What the patch does not touch stays as it was, to
 * the letter: comments, order, quotes and indentation. A move within a map renames, and keeps the
 * entry where it stands with its comments.
 *
 * @returns the new text; all operations are applied, or none
 * @throws PatchProblem
 */
export function patchSite(text: string, operations: readonly PatchOperation[]): string {
  let patched = text;
  for (let i = 0; i < operations.length;) {
    const run = runOfSplices(patched, operations, i);
    const entries = run.length > 0 ? null : runOfFlowEntries(patched, operations, i);
    if (run.length > 0) patched = spliced(patched, run);
    else patched = entries?.text ?? applyOne(patched, operations[i]!, i);
    i += Math.max(run.length, entries?.length ?? 1);
  }
  return patched;
}

function applyOne(text: string, operation: PatchOperation, number: number): string {
  const fail = (refusal: EditRefusal): PatchProblem => new PatchProblem(number, refusal);
  const document = parsed(text);
  if (document.errors.length > 0) throw fail({ code: 'not-yaml' });
  if (operation.op === 'move' || operation.op === 'copy')
    return transfer(text, document, operation, number, fail);
  const steps = stepsOf(operation.path);
  if (steps === null || steps.length === 0)
    throw fail({ code: 'no-pointer', path: operation.path });
  const last = steps.at(-1)!;
  if (operation.op === 'add') return add(text, document, steps, operation.value, fail);
  const parent = nodeAt(document, steps.slice(0, -1));
  const target = parent && childOf(parent, last);
  if (!parent || !target) throw fail({ code: 'nothing-at-path', path: operation.path });
  if (operation.op === 'test') {
    if (isSameJson(target.value?.toJS(document) ?? null, operation.value)) return text;
    throw fail({ code: 'other-value', path: operation.path });
  }
  return operation.op === 'remove'
    ? remove(text, document, parent, steps)
    : spliced(text, [replacement(text, document, target, operation.value)]);
}

/** Moves or copies a value to where it was not. */
function transfer(
  text: string,
  document: Document,
  { op, from, path }: Extract<PatchOperation, { op: 'move' | 'copy' }>,
  number: number,
  fail: Fail,
): string {
  const steps = stepsOf(from) ?? [];
  const last = steps.at(-1);
  const parent = last === undefined ? null : nodeAt(document, steps.slice(0, -1));
  const source = parent && childOf(parent, last!);
  if (!source) throw fail({ code: 'nothing-at-path', path: from });
  if (op === 'move' && path.startsWith(`${from}/`))
    throw fail({ code: 'moved-into-itself', path: from });
  const value: unknown = source.value?.toJS(document) ?? null;
  const without = op === 'move' ? applyOne(text, { op: 'remove', path: from }, number) : text;
  return applyOne(without, { op: 'add', path, value }, number);
}

/** Whether two values are the same in JSON, where the order of names means nothing (RFC 6902, 4.6). */
function isSameJson(one: unknown, other: unknown): boolean {
  if (typeof one !== 'object' || typeof other !== 'object' || one === null || other === null)
    return one === other;
  const names = Object.keys(one);
  return (
    Array.isArray(one) === Array.isArray(other) &&
    names.length === Object.keys(other).length &&
    names.every(
      (name) =>
        Object.hasOwn(other, name) &&
        isSameJson(one[name as keyof typeof one], other[name as keyof typeof other]),
    )
  );
}

type Fail = (refusal: EditRefusal) => PatchProblem;

function add(
  text: string,
  document: Document,
  steps: readonly string[],
  value: unknown,
  fail: Fail,
): string {
  const last = steps.at(-1)!;
  const above = steps.slice(0, -1);
  const parent = above.length === 0 ? document.contents! : nodeAt(document, above);
  if (parent === null || !isCollection(parent)) {
    const isMissing = above.length > 0 && nodeAt(document, above.slice(0, -1)) !== null;
    if (!isMissing) throw fail({ code: 'nothing-to-add-to', path: pointer(...above) });
    // A section that is not there yet, such as the first gate, is made.
    return add(text, document, above, last === '-' ? [value] : { [last]: value }, fail);
  }
  const existing = childOf(parent, last);
  if (existing && isMap(parent))
    return spliced(text, [replacement(text, document, existing, value)]);
  if (isSeq(parent) && last !== '-' && Number(last) !== parent.items.length) {
    if (!existing) throw fail({ code: 'no-such-place', path: pointer(...above), place: last });
    return rewrite(text, document, above, (node) =>
      (node as YAMLSeq).items.splice(Number(last), 0, document.createNode(value)),
    );
  }
  if (parent.flow || parent.items.length === 0) {
    return rewrite(text, document, above, (node) => {
      if (isMap(node)) node.set(last, document.createNode(value));
      else (node as YAMLSeq).add(document.createNode(value));
    });
  }
  const indentation = indentationOf(text, parent);
  const line = isMap(parent) ? { [last]: value } : [value];
  return insertAfter(text, endOf(parent), lineFor(line, indentation));
}

function remove(
  text: string,
  document: Document,
  parent: Collection,
  steps: readonly string[],
): string {
  const child = childOf(parent, steps.at(-1)!)!;
  if (parent.flow || parent.items.length === 1) {
    const above = steps.slice(0, -1);
    return rewrite(text, document, above, (node) => {
      if (isMap(node)) node.items.splice(child.index, 1);
      else (node as YAMLSeq).items.splice(child.index, 1);
    });
  }
  return spliced(text, [removal(text, child)]);
}
