/** A claim by its name, or by the names on the way to it with dots between; and what its values are called here. */
export type ClaimRule = string | { readonly claim: string; readonly as: Record<string, string> };

/** Which claims say what of a visitor. What is not named has the name that OpenID Connect gives it. */
export interface ClaimSettings {
  readonly id?: string | undefined;
  readonly name?: string | undefined;
  readonly email?: string | undefined;
  readonly roles?: ClaimRule | undefined;
  readonly groups?: ClaimRule | undefined;
  readonly bought?: string | undefined;
  readonly attributes?: readonly string[] | undefined;
}
