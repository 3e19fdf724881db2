import { useEffect } from 'react';

/** Stands in for the search until it has loaded, and keeps what is typed meanwhile. */
export function TypedBefore({ onType }: { onType: (key: string) => void }) {
  useEffect(() => {
    const keep = (event: KeyboardEvent): void => {
      // What is held with these is a command, and not text.
      if (event.key.length !== 1 || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      onType(event.key);
    };
    window.addEventListener('keydown', keep);
    return () => window.removeEventListener('keydown', keep);
  }, [onType]);
  return null;
}
