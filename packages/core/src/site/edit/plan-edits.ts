import { type SiteValue, isRecord } from '../../model/plain-value.ts';
import { applyToValue, patched, PatchProblem, readSiteText, type SiteText } from './patch.ts';
import { copyOf } from './patch-value.ts';
import { copySettings } from './copy-settings.ts';
import type { Edit } from '../../model/edit.ts';
import { movePage } from './move-page.ts';
import { put, putItem, putItems, remove } from './put.ts';
import { Refused } from './refused.ts';
import { rename } from './rename.ts';
import type { EditRefusal } from '../../model/edit-refusal.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';

/** An edit that could not be made, by its position, and why. */
interface RefusedEdit {
  readonly position: number;
  readonly code: EditRefusal['code'];
  readonly message: string;
  /** Where others changed the entry meanwhile: what the edit replaces, and what the file has now. */
  readonly conflict: { readonly was: unknown; readonly is: unknown } | null;
}

/** What edits come to. */
export interface PlannedEdits {
  /** The site file with all edits that could be made. */
  readonly text: string;
  /** The same as one JSON Patch (RFC 6902). */
  readonly operations: readonly PatchOperation[];
  /** Edits that could not be made, by their position, and why. */
  readonly refused: readonly RefusedEdit[];
}

/**
 * Works out what edits come to in a site file, one after the other. One that can't be made is left
 * out and said to be.
 *
 * @param text a site file; it may have errors, but must be YAML
 */
export function planEdits(text: string, edits: readonly Edit[]): PlannedEdits {
  const site = readSiteText(text);
  return plannedTogether(site, edits) ?? plannedOneByOne(site, edits);
}

/** Applies all edits to values and writes the text once. Null if the text can't be written. */
function plannedTogether(site: SiteText, edits: readonly Edit[]): PlannedEdits | null {
  const value = copyOf(site.value);
  const operations: PatchOperation[] = [];
  const refused: RefusedEdit[] = [];
  try {
    edits.forEach((edit, position) => {
      const made = operationsOrRefusal(edit, asSite(value));
      if (made instanceof Refused) return void refused.push(refusedAt(position, made));
      for (const operation of made) applyToValue(value, operation);
      operations.push(...made);
    });
    return { text: patched(site, operations).text, operations, refused };
  } catch (error) {
    if (error instanceof PatchProblem) return null;
    throw error;
  }
}

function plannedOneByOne(site: SiteText, edits: readonly Edit[]): PlannedEdits {
  const operations: PatchOperation[] = [];
  const refused: RefusedEdit[] = [];
  let planned = site;
  edits.forEach((edit, position) => {
    try {
      const made = operationsFor(edit, asSite(planned.value));
      planned = patched(planned, made);
      operations.push(...made);
    } catch (error) {
      if (!(error instanceof Refused) && !(error instanceof PatchProblem)) throw error;
      refused.push(refusedAt(position, error));
    }
  });
  return { text: planned.text, operations, refused };
}

const refusedAt = (
  position: number,
  { refusal, message }: Refused | PatchProblem,
): RefusedEdit => ({
  position,
  code: refusal.code,
  message,
  conflict: refusal.code === 'entry-replaced' ? { was: refusal.was, is: refusal.is } : null,
});

function operationsOrRefusal(edit: Edit, site: SiteValue): PatchOperation[] | Refused {
  try {
    return operationsFor(edit, site);
  } catch (error) {
    if (error instanceof Refused) return error;
    throw error;
  }
}

/** A site file as plain values; empty where it is not YAML. */
export const valueOf = (text: string): SiteValue => yamlOf(text) ?? {};

/** The same; null where it is not YAML. */
export function yamlOf(text: string): SiteValue | null {
  const { value } = readSiteText(text);
  return value === null ? null : asSite(value);
}

const asSite = (value: unknown): SiteValue => (isRecord(value) ? value : {});

function operationsFor(edit: Edit, site: SiteValue): PatchOperation[] {
  switch (edit.do) {
    case 'put':
      return put(edit, site);
    case 'put-item':
      return putItem(edit, site);
    case 'put-items':
      return putItems(edit, site);
    case 'remove':
      return remove(edit, site);
    case 'rename':
      return rename(edit, site);
    case 'move-page':
      return movePage(edit, site);
    case 'copy-settings':
      return copySettings(edit, site);
  }
}
