/** A text with a capital at its beginning. */
export const capitalize = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
