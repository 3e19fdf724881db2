import { type SiteValue, isRecord } from '../../model/plain-value.ts';
import type { EditRefusal } from '../../model/edit-refusal.ts';
import { describeRefusal } from '../../wording/edit.ts';

/** An edit can't be made: what it needs is not there, or what it makes is there already. */
export class Refused extends Error {
  constructor(readonly refusal: EditRefusal) {
    super(describeRefusal(refusal));
  }
}

/** The entries of a part of a site file. */
export function entriesOf(site: SiteValue, section: string): Readonly<Record<string, unknown>> {
  const entries = site[section];
  return isRecord(entries) ? entries : {};
}

/** Throws `Refused` where a section has no such entry. */
export function mustBeThere(site: SiteValue, section: string, name: string): void {
  if (Object.hasOwn(entriesOf(site, section), name)) return;
  throw new Refused({ code: 'not-there', section, name });
}

/** Throws `Refused` where a name is empty, or taken. */
export function mustBeFree(site: SiteValue, section: string, name: string): void {
  if (name === '') throw new Refused({ code: 'no-name', section });
  if (Object.hasOwn(entriesOf(site, section), name))
    throw new Refused({ code: 'name-taken', section, name });
}
