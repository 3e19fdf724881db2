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
