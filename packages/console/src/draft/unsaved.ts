/** What was typed and not saved, kept in the browser so that a reload or a crash loses nothing. */
export interface Unsaved {
  /** The version of the draft that it was typed into. */
  readonly version: number;
  readonly text: string;
}

const key = (site: string): string => `kleidon.unsaved.${site}`;

export function readUnsaved(site: string): Unsaved | null {
  const stored = localStorage.getItem(key(site));
  return stored === null ? null : (JSON.parse(stored) as Unsaved);
}

export function keepUnsaved(site: string, unsaved: Unsaved | null): void {
  if (unsaved === null) localStorage.removeItem(key(site));
  else localStorage.setItem(key(site), JSON.stringify(unsaved));
}
