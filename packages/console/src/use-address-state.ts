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
      // The router draws a page later than the browser has its address. A change must keep those before it.
      const next = new URLSearchParams(window.location.search);
      for (const [name, value] of Object.entries(changes)) {
        next.delete(name);
        for (const one of value === null || value === '' ? [] : [value].flat())
          next.append(name, one);
      }
      setQuery(next, options);
    },
    [setQuery],
  );
  return { query, change };
}
