import type { Document } from 'yaml';
import type { EditRefusal } from '../../model/edit-refusal.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';
import { describeRefusal } from '../../wording/edit.ts';
import { commentsOf, type Comment } from '../yaml/comments.ts';
import { parseYaml } from '../yaml/parse-yaml.ts';
import { pointer } from '../yaml/pointer.ts';
import { isSame } from './change-value.ts';
import { changeFor, copyOf, makeChange, simpleOperations } from './patch-value.ts';
import { rewritten } from './rewrite.ts';
import type { Splice } from './places.ts';
import { planSplices, spliced, touchedBy } from './splices.ts';

/** Why a patch could not be applied: which operation, and what is wrong with it. */
export class PatchProblem extends Error {
  constructor(
    readonly operation: number,
    readonly refusal: EditRefusal,
  ) {
    super(describeRefusal(refusal));
  }
}

/** A site file as text, as YAML and as plain values. */
export interface SiteText {
  readonly text: string;
  readonly document: Document;
  /** Null where the text is not YAML. */
  readonly value: unknown;
}

/** Reads a site file for edits. */
export function readSiteText(text: string): SiteText {
  // The library's own test for keys that stand twice compares each with all others.
  const document = parseYaml(text, { uniqueKeys: false });
  if (document.errors.length > 0) return { text, document, value: null };
  try {
    return { text, document, value: copyOf(document.toJS({ maxAliasCount: 100 })) ?? {} };
  } catch {
    return { text, document, value: null };
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
export const patchSite = (text: string, operations: readonly PatchOperation[]): string =>
  operations.length === 0 ? text : patched(readSiteText(text), operations).text;

/**
 * Applies a JSON Patch to a parsed site file. Every result is parsed again and compared with the intended value. If an
 * operation has no simple place, its section or the whole file is written from the document. If that fails too, the
 * patch is refused.
 *
 * @throws PatchProblem
 */
export function patched(site: SiteText, operations: readonly PatchOperation[]): SiteText {
  if (operations.length > 0 && site.value === null) throw new PatchProblem(0, { code: 'not-yaml' });
  let current = site;
  let most = operations.length;
  for (let i = 0; i < operations.length;) {
    const batch = planBatch(current, operations.slice(0, i + most), i);
    const next = batch.splices.length > 0 ? attempt(current, batch) : null;
    if (!next && batch.length > 1) {
      // Halving the batch isolates the failing operation in few attempts.
      most = Math.ceil(batch.length / 2);
      continue;
    }
    current = next ?? appliedAlone(current, operations[i]!, i);
    i += next ? batch.length : 1;
    most = operations.length;
  }
  return current;
}

/**
 * Applies one operation of a JSON Patch to a value.
 *
 * @throws PatchProblem
 */
export function applyToValue(value: unknown, operation: PatchOperation): void {
  const fail = failing(0);
  for (const one of simpleOperations(value, operation, fail))
    makeChange(value, changeFor(value, one, fail));
}

/** The intended result of operations. */
interface Intended {
  readonly value: unknown;
  /** Ranges that are replaced or removed. Comments in them may be lost. */
  readonly touched: readonly (readonly [start: number, end: number])[];
}

interface Batch extends Intended {
  readonly length: number;
  readonly splices: readonly Splice[];
}

/** Plans as many of the next operations as are independent of each other. */
function planBatch(
  { text, document, value: before }: SiteText,
  operations: readonly PatchOperation[],
  first: number,
): Batch {
  const value = copyOf(before);
  const plan = planSplices(text, document);
  const touched: Intended['touched'][number][] = [];
  let length = 0;
  for (const operation of operations.slice(first)) {
    const fail = failing(first + length);
    if (!plan.isFree(operation)) break;
    if (operation.op === 'test' || simpleOperations(value, operation, fail)[0] !== operation) break;
    const change = changeFor(value, operation, fail);
    if (!plan.add(change)) break;
    makeChange(value, change);
    const range = touchedBy(text, document, change);
    if (range) touched.push(range);
    length++;
  }
  return { length, splices: plan.splices(), value, touched };
}

/** Applies one operation with the smallest possible change to the text. */
function appliedAlone(site: SiteText, operation: PatchOperation, number: number): SiteText {
  const fail = failing(number);
  const simple = simpleOperations(site.value, operation, fail);
  if (simple[0] !== operation)
    return simple.reduce((at, one) => appliedAlone(at, one, number), site);
  const change = changeFor(site.value, operation, fail);
  const value = copyOf(site.value);
  makeChange(value, change);
  const plan = planSplices(site.text, site.document);
  const ways = [
    () => (plan.add(change) ? spliced(site.text, plan.splices()) : null),
    () => rewritten(site.text, change, 'section'),
    () => rewritten(site.text, change, 'file'),
  ];
  const range = touchedBy(site.text, site.document, change);
  const touched = range ? [range] : [];
  for (const way of ways) {
    const text = way();
    const next = text === null ? null : verified(site, text, { value, touched });
    if (next) return next;
  }
  throw fail({ code: 'not-writable', path: pointer(...change.above, change.last) });
}

const failing =
  (number: number) =>
  (refusal: EditRefusal): PatchProblem =>
    new PatchProblem(number, refusal);

function attempt(site: SiteText, batch: Batch): SiteText | null {
  const text = spliced(site.text, batch.splices);
  return text === null ? null : verified(site, text, batch);
}

/** Parses a changed file. Null if its value is not the intended one, or a comment is missing. */
function verified(before: SiteText, text: string, { value, touched }: Intended): SiteText | null {
  const after = readSiteText(text);
  if (after.value === null || !isSame(after.value, value)) return null;
  const kept = commentsOf(before.text).filter(
    ({ offset }) => !touched.some(([start, end]) => offset >= start && offset < end),
  );
  return hasAll(commentsOf(text), kept) ? after : null;
}

function hasAll(there: readonly Comment[], wanted: readonly Comment[]): boolean {
  const counts = new Map<string, number>();
  for (const { text } of there) counts.set(text, (counts.get(text) ?? 0) + 1);
  return wanted.every(({ text }) => {
    const left = counts.get(text) ?? 0;
    counts.set(text, left - 1);
    return left > 0;
  });
}
