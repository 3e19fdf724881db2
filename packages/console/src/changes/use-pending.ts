import { useMemo } from 'react';
import { skipToken, useQuery, useQueryClient } from '@tanstack/react-query';
import type { PendingChanges } from '@kleidon/client';
import type { model } from '@kleidon/core';
import { client } from '../client.ts';

/** The pending changes of this browser, in all its tabs; the service keeps them, so that a reload loses none. */
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
  /** Keeps a conflicting edit: it now replaces the current value. */
  keep(edit: PendingChanges['edits'][number]): Promise<void>;
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
  const queries = useQueryClient();
  const queryKey = ['pending changes', site, version];
  const loaded = useQuery({
    queryKey,
    queryFn: version === undefined ? skipToken : () => client.changes(site, name),
  });
  const changes = version === undefined ? null : (loaded.data ?? null);
  const count = changes?.edits.length ?? 0;
  const keep = (next: PendingChanges): void => void queries.setQueryData(queryKey, next);
  return {
    changes,
    count,
    state: count > 0 ? `changes-${name}` : 'draft',
    key: `${site} ${version} ${JSON.stringify(changes?.operations ?? [])}`,
    add: async (...edits) => {
      let pending: PendingChanges | null = null;
      for (const edit of edits) pending = await client.addChange(site, name, edit);
      if (pending) keep(pending);
      return pending;
    },
    drop: async (number) => keep(await client.dropChange(site, name, number)),
    keep: async ({ number, edit, conflict }) => {
      const next = await client.addChange(site, name, { ...edit, was: conflict!.is } as model.Edit);
      const isLeft = next.edits.some((one) => one.number === number);
      keep(isLeft ? await client.dropChange(site, name, number) : next);
    },
    save: async () => {
      const { version: saved } = await client.saveChanges(site, name);
      await loaded.refetch();
      return saved;
    },
  };
}
