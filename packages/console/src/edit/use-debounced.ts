import { useEffect, useState } from 'react';

/** A value as it was when it last rested, so that not every key asks the service. */
export function useDebounced<T>(value: T, pause: number): T {
  const [later, setLater] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setLater(value), pause);
    return () => clearTimeout(timer);
  }, [value, pause]);
  return later;
}
