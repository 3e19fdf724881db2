import { useState } from 'react';

/** What clicks on a page did. */
export interface Action {
  /** What came of the last one; empty before the first. */
  readonly said: string;
  readonly failure: Error | null;
  /** Makes a click do something, which gives what to say once it is done. */
  run(work: () => Promise<string>): () => void;
}

/** @param done what follows whenever something was done */
export function useAction(done: () => void = () => {}): Action {
  const [said, setSaid] = useState('');
  const [failure, setFailure] = useState<Error | null>(null);
  return {
    said,
    failure,
    run: (work) => () => {
      setFailure(null);
      work().then(
        (news) => {
          setSaid(news);
          done();
        },
        (problem: unknown) => setFailure(problem as Error),
      );
    },
  };
}
