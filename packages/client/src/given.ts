type Given<T> = {
  [Key in keyof T as undefined extends T[Key] ? never : Key]: T[Key];
} & { [Key in keyof T as undefined extends T[Key] ? Key : never]?: Exclude<T[Key], undefined> };

/** The fields that are given. */
export function given<T extends object>(fields: T): Given<T> {
  return Object.fromEntries(
    Object.entries(fields).filter(([, value]) => value !== undefined),
  ) as Given<T>;
}
