import type { queries } from '@kleidon/core';

/** How the command ends. */
export const EXIT = { ok: 0, failed: 1, wrongUse: 2, unreachable: 3 } as const;

/** Ends the command with a message for people, and an exit code for scripts. */
export class Stop extends Error {
  constructor(
    readonly code: number,
    message: string,
  ) {
    super(message);
  }
}

/** The site file has errors, so that nothing else can be said about the site. */
export class SiteHasErrors extends Stop {
  constructor(
    readonly errors: readonly queries.ExplainedError[],
    message: string,
  ) {
    super(EXIT.failed, message);
  }
}
