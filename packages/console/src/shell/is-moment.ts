const SHAPE =
  /^(\d{4}-\d{2}-\d{2})(?:[T ](?:[01]\d|2[0-3]):[0-5]\d(?::[0-5]\d(?:\.\d{1,3})?)?(?:Z|[+-]\d{2}:\d{2})?)?$/;

/** Whether the service reads a text as a moment: a date, or a date with a time (RFC 3339, or without its offset). */
export function isMoment(text: string): boolean {
  const day = SHAPE.exec(text.trim())?.[1];
  const at = new Date(`${day}T00:00Z`);
  // A day that a month does not have becomes one of the next.
  return !Number.isNaN(at.getTime()) && at.toISOString().startsWith(`${day}T`);
}
