import { useCallback } from 'react';
import { useSearchParams } from 'react-router';

export type Changes = Readonly<Record<string, string | readonly string[] | null>>;

/**
 * What a page shows, kept in its address, so that every view can be linked to and reloaded.
 * A change of what is typed replaces the entry in the browser's history; others add one.
 */
export function useAddressState() {
  const [query, setQuery] = useSearchParams();
  const change = useCallback(
    (changes: Changes, options: { replace?: boolean } = {}) => {
      setQuery((before) => {
        const next = new URLSearchParams(before);
        for (const [name, value] of Object.entries(changes)) {
          next.delete(name);
          for (const one of value === null || value === '' ? [] : [value].flat())
            next.append(name, one);
        }
        return next;
      }, options);
    },
    [setQuery],
  );
  return { query, change };
}
