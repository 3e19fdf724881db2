/** A site file as plain values. */
export type SiteValue = Readonly<Record<string, unknown>>;

/** Whether a plain value is a map of names to values. */
export const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
