/** What is wrong, and what would be right. */
export interface Advice {
  readonly message: string;
  readonly remedy: string;
}

/** What is wrong, and what would be right, in one. */
export const advice = (message: string, remedy: string): Advice => ({ message, remedy });
