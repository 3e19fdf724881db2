/** Prints a result: JSON where it was asked for, otherwise as people read it. */
export function print(json: boolean | undefined, value: unknown, asText: () => string): void {
  process.stdout.write(`${json ? JSON.stringify(value, null, 2) : asText()}\n`);
}
