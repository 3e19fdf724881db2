import { isRecord } from '../../model/plain-value.ts';
import { placesOf, type Place } from '../fields/places.ts';
import { type TextKind } from '../fields/schema-kinds.ts';
import type { YamlPath } from '../yaml/document.ts';

/** A text of a site file, with where it is. */
export interface Mention {
  readonly path: YamlPath;
  readonly text: string;
}

const placesByKind = new Map<TextKind, readonly Place[]>();

/** The texts of a kind, wherever the fields of a site file have them. */
export function textsOfKind(site: unknown, kind: TextKind): Mention[] {
  let places = placesByKind.get(kind);
  if (!places) placesByKind.set(kind, (places = placesOf(kind)));
  return places.flatMap((place) => findAt(site, place, []));
}

/** The texts at places that a rename of one kind of name has to follow. */
export const textsAt = (value: unknown, ...place: string[]): Mention[] => findAt(value, place, []);

function findAt(value: unknown, place: readonly string[], path: YamlPath): Mention[] {
  const [step, ...rest] = place;
  if (step === undefined) {
    if (typeof value === 'string') return [{ path, text: value }];
    return Array.isArray(value) ? value.flatMap((item, i) => findAt(item, [], [...path, i])) : [];
  }
  if (step !== '*') return isRecord(value) ? findAt(value[step], rest, [...path, step]) : [];
  if (Array.isArray(value)) return value.flatMap((item, i) => findAt(item, rest, [...path, i]));
  if (!isRecord(value)) return [];
  return Object.entries(value).flatMap(([key, item]) => findAt(item, rest, [...path, key]));
}
