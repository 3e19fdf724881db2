import { useCallback, useEffect, useState } from 'react';

/** Something that is being fetched: nothing yet, there, or failed. What was there stays until the next is. */
export interface Loaded<T> {
  readonly value: T | null;
  readonly error: Error | null;
  readonly isLoading: boolean;
  reload(): void;
}

/**
 * Loads something, and again whenever `key` changes.
 * @param key what decides the result; null loads nothing
 */
export function useLoad<T>(
  key: string | null,
  load: (signal: AbortSignal) => Promise<T>,
): Loaded<T> {
  const [result, setResult] = useState<{
    key: string | null;
    value: T | null;
    error: Error | null;
  }>({
    key: null,
    value: null,
    error: null,
  });
  const [round, setRound] = useState(0);

  useEffect(() => {
    if (key === null) return;
    const controller = new AbortController();
    load(controller.signal).then(
      (value) => {
        if (!controller.signal.aborted) setResult({ key, value, error: null });
      },
      (error: unknown) => {
        if (!controller.signal.aborted) setResult({ key, value: null, error: error as Error });
      },
    );
    return () => controller.abort();
    // `load` is made anew with each render; `key` says when its result would differ.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, round]);

  return {
    value: key === null ? null : result.value,
    error: key === null ? null : result.error,
    isLoading: key !== null && result.key !== key,
    reload: useCallback(() => setRound((before) => before + 1), []),
  };
}
