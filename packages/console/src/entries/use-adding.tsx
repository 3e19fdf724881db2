import { useRef, useState, type ReactNode } from 'react';
import { useOutletContext } from 'react-router';
import { clsx } from 'clsx';
import type { model } from '@kleidon/core';
import { client } from '../client.ts';
import { Failure } from '../shell/notices.tsx';
import type { SiteFrame } from '../shell/shell.tsx';
import layout from '../style/layout.module.css';

interface Adding {
  /** Adds edits; gives whether they are pending now. */
  add(edits: readonly model.Edit[]): Promise<boolean>;
  /** Adds edits, unless they would make an error of the site file. */
  addIfValid(edits: readonly model.Edit[]): Promise<boolean>;
  /** Why nothing was added, for the form to show. */
  readonly told: ReactNode;
}

/** Adds what a form has to the pending changes. */
export function useAdding(): Adding {
  const { site, pending } = useOutletContext<SiteFrame>();
  const [failure, setFailure] = useState<Error | null>(null);
  const [objections, setObjections] = useState<readonly string[]>([]);
  // A second click meanwhile would add the change twice.
  const isBusy = useRef(false);

  const attempt = async (work: () => Promise<boolean>): Promise<boolean> => {
    if (isBusy.current) return false;
    isBusy.current = true;
    setFailure(null);
    setObjections([]);
    try {
      return await work();
    } catch (error) {
      setFailure(error as Error);
      return false;
    } finally {
      isBusy.current = false;
    }
  };
  const add = async (edits: readonly model.Edit[]): Promise<boolean> => {
    await pending.add(...edits);
    return true;
  };

  return {
    add: (edits) => attempt(() => add(edits)),
    addIfValid: (edits) =>
      attempt(async () => {
        const { errors, refused } = await client.effect(site.id, pending.state, edits);
        const objected = [
          ...refused.map(({ message }) => message),
          ...errors.map(({ message, remedy }) => `${message} ${remedy}`),
        ];
        setObjections(objected);
        return objected.length === 0 && add(edits);
      }),
    told: (
      <>
        {objections.length > 0 && (
          <ul className={clsx(layout.plain, layout.refused)} role="alert">
            {objections.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        )}
        {failure && <Failure error={failure} />}
      </>
    ),
  };
}
