import { useCallback, useMemo, useState } from 'react';
import type { PendingChanges } from '@kleidon/client';
import type { model } from '@kleidon/core';
import { client } from '../client.ts';
import { useLoad } from '../use-load.ts';

/** The pending changes of this browser; the service keeps them, so that a reload loses none. */
export interface Pending {
  readonly changes: PendingChanges | null;
  readonly count: number;
  /** The state of the site that has them: `draft` where there are none. */
  readonly state: string;
  /** Differs whenever the pending changes differ. */
  readonly key: string;
  /** Adds edits; gives those that are then pending. */
  add(...edits: readonly model.Edit[]): Promise<PendingChanges | null>;
  drop(number: number | 'all'): Promise<void>;
  save(): Promise<number>;
}

/** The name of this browser’s pending changes of a site. */
function nameFor(site: string): string {
  const key = `kleidon.changes.${site}`;
  const known = localStorage.getItem(key);
  if (known !== null) return known;
  const name = crypto.randomUUID();
  localStorage.setItem(key, name);
  return name;
}

export function usePending(site: string, version: number | undefined): Pending {
  const name = useMemo(() => nameFor(site), [site]);
  const [round, setRound] = useState(0);
  const loaded = useLoad(version === undefined ? null : `${site} ${version} ${round}`, () =>
    client.changes(site, name),
  );
  const next = useCallback(() => setRound((before) => before + 1), []);
  const changes = loaded.value;
  const count = changes?.edits.length ?? 0;
  return {
    changes,
    count,
    state: count > 0 ? `changes-${name}` : 'draft',
    key: `${site} ${version} ${JSON.stringify(changes?.operations ?? [])}`,
    add: async (...edits) => {
      let waiting: PendingChanges | null = null;
      for (const edit of edits) waiting = await client.addChange(site, name, edit);
      next();
      return waiting;
    },
    drop: async (number) => {
      await client.dropChange(site, name, number);
      next();
    },
    save: async () => {
      const { version: saved } = await client.saveChanges(site, name);
      next();
      return saved;
    },
  };
}
