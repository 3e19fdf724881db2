import { useCallback, useLayoutEffect, useRef } from 'react';

/** A function that stays the same from one render to the next, and does what that of the last render does. */
export function useStable<A extends readonly unknown[]>(run: (...given: A) => void) {
  const latest = useRef(run);
  useLayoutEffect(() => {
    latest.current = run;
  });
  return useCallback((...given: A) => latest.current(...given), []);
}
