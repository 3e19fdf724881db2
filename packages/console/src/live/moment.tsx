/** As the browser of whoever looks writes it. */
const FORMAT = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' });

/** A moment in the time zone of whoever looks. */
export function Moment({ at }: { at: string }) {
  return <time dateTime={at}>{FORMAT.format(new Date(at))}</time>;
}
