import { type SiteValue, isRecord } from '../../model/plain-value.ts';
import { PatchProblem, patchSite } from './patch.ts';
import { copySettings } from './copy-settings.ts';
import type { Edit } from '../../model/edit.ts';
import { movePage } from './move-page.ts';
import { put, putItem, putItems, remove } from './put.ts';
import { Refused } from './refused.ts';
import { rename } from './rename.ts';
import { parseYaml } from '../yaml/parse-yaml.ts';
import type { EditRefusal } from '../../model/edit-refusal.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';

/** An edit that could not be made, by its position, and why. */
interface RefusedEdit {
  readonly position: number;
  readonly code: EditRefusal['code'];
  readonly message: string;
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
  const operations: PatchOperation[] = [];
  const refused: RefusedEdit[] = [];
  let planned = text;
  edits.forEach((edit, position) => {
    try {
      const made = operationsFor(edit, valueOf(planned));
      planned = patchSite(planned, made);
      operations.push(...made);
    } catch (error) {
      if (!(error instanceof Refused) && !(error instanceof PatchProblem)) throw error;
      refused.push({ position, code: error.refusal.code, message: error.message });
    }
  });
  return { text: planned, operations, refused };
}

/** A site file as plain values; empty where it is not YAML. */
export const valueOf = (text: string): SiteValue => yamlOf(text) ?? {};

/** The same; null where it is not YAML. */
export function yamlOf(text: string): SiteValue | null {
  const document = parseYaml(text, { uniqueKeys: false });
  if (document.errors.length > 0) return null;
  const value: unknown = document.toJS({ maxAliasCount: 100 });
  return isRecord(value) ? value : {};
}

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
