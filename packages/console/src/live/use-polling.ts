import { useEffect } from 'react';

/** So often what is shown is fetched again, in milliseconds. */
const EVERY = 10_000;

/** Does something again every so often, as long as anyone may be looking. */
export function usePolling(work: () => void): void {
  useEffect(() => {
    const timer = setInterval(() => {
      if (document.visibilityState === 'visible') work();
    }, EVERY);
    return () => clearInterval(timer);
  }, [work]);
}
