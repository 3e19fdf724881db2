/** A JSON Pointer (RFC 6901). */
export const pointer = (...steps: readonly (string | number)[]): string =>
  steps.map((step) => `/${String(step).replace(/~/g, '~0').replace(/\//g, '~1')}`).join('');
