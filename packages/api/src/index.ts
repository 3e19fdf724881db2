import type { components, operations, paths } from './generated.ts';

export type { paths as Paths };

/** The calls of the API by their names. */
export type Operations = operations;

export type CallName = keyof operations;

/** A message of the API by its name in the description, such as `Message<'Site'>`. */
export type Message<Name extends keyof components['schemas']> = components['schemas'][Name];

/** What a call takes in its query. */
export type Query<Name extends keyof operations> = NonNullable<
  operations[Name]['parameters']['query']
>;

/** What a call takes as its body, as JSON. */
export type Body<Name extends keyof operations> = operations[Name] extends {
  readonly requestBody: { readonly content: infer Content };
}
  ? Content[keyof Content]
  : undefined;

type ContentOf<Response> = Response extends {
  readonly content: { readonly 'application/json': infer T };
}
  ? T
  : never;

/** What a call answers where it succeeds, as JSON. */
export type Answer<Name extends keyof operations> = {
  [Status in keyof operations[Name]['responses']]: Status extends 'default'
    ? never
    : ContentOf<operations[Name]['responses'][Status]>;
}[keyof operations[Name]['responses']];
