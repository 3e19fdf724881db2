import { isRecord } from '../../model/plain-value.ts';
import { pointer } from '../yaml/pointer.ts';
import type { YamlPath } from '../yaml/document.ts';
import type { PatchOperation } from '../../model/patch-operation.ts';

/** The fewest operations that turn one value into another, so that what stays keeps its comments and form. */
export function changeValue(path: YamlPath, before: unknown, after: unknown): PatchOperation[] {
  if (isSame(before, after)) return [];
  if (isRecord(before) && isRecord(after) && Object.keys(after).length > 0) {
    return [
      ...Object.keys(before)
        .filter((key) => after[key] === undefined)
        .map((key): PatchOperation => ({ op: 'remove', path: pointer(...path, key) })),
      ...Object.entries(after)
        .filter(([, value]) => value !== undefined)
        .flatMap(([key, value]): PatchOperation[] =>
          Object.hasOwn(before, key)
            ? changeValue([...path, key], before[key], value)
            : [{ op: 'add', path: pointer(...path, key), value }],
        ),
    ];
  }
  if (Array.isArray(before) && Array.isArray(after) && before.length === after.length)
    return after.flatMap((item, i) => changeValue([...path, i], before[i], item));
  return [{ op: 'replace', path: pointer(...path), value: after }];
}

/** Whether two values of a site file say the same; the order of fields does not count. */
export function isSame(one: unknown, other: unknown): boolean {
  if (Array.isArray(one) && Array.isArray(other))
    return one.length === other.length && one.every((item, i) => isSame(item, other[i]));
  if (!isRecord(one) || !isRecord(other))
    return one === other || (Number.isNaN(one) && Number.isNaN(other));
  const keys = Object.keys(one);
  return (
    keys.length === Object.keys(other).length &&
    keys.every((key) => Object.hasOwn(other, key) && isSame(one[key], other[key]))
  );
}
