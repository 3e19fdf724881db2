/**
 * Writes an address as it stands in a field of a response: ASCII only (RFC 3986; RFC 9110, 10.2.2). A host
 * in other letters is written as the URL Standard has it; all else is percent-encoded as UTF-8.
 */
export function encodeLocation(address: string): string {
  if (ASCII.test(address)) return address;
  const origin = /^https?:\/\/[^/?#]*/i.exec(address)?.[0] ?? '';
  const home = URL.canParse(origin) ? new URL(origin).origin : origin;
  return (home + address.slice(origin.length))
    .toWellFormed()
    .replace(NOT_ASCII, encodeURIComponent);
}

const ASCII = /^[\x21-\x7e]*$/;
const NOT_ASCII = /[^\x21-\x7e]+/g;
