/** Writes an address so that, as a pattern, it matches exactly itself. */
export function escapePattern(address: string): string {
  return address.replace(/[\\*+?:(){}]/g, '\\$&');
}
