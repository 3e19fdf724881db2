import type { Answer, Body, CallName, Operations, Query } from '@kleidon/api';
import { readJson, readText } from './body.ts';
import type { DescribedCall } from './description.ts';
import { bodySchema, validated } from './validation.ts';
import type { Schema } from 'yup';

/** What a call asks, as the description has it. */
export interface Asked<Name extends CallName> {
  readonly path: Operations[Name]['parameters'] extends { readonly path: infer Path }
    ? Path
    : object;
  readonly query: Query<Name>;
  readonly body: Body<Name>;
}

/** What a call answers; undefined where it answers nothing. */
export type Answered<Name extends CallName> = [Answer<Name>] extends [never]
  ? undefined
  : Answer<Name>;

/** A body as it came. */
export interface SentBody {
  readonly bytes: Uint8Array;
  /** As the request declares it. */
  readonly charset: string | null;
}

/**
 * Reads the body of a call: text as it is, and JSON as the description has it.
 *
 * @throws Problem `wrong-request`, `wrong-media-type`
 */
export function bodyReader({ body }: DescribedCall): (body: SentBody) => unknown {
  if (!body?.type.endsWith('json')) return readText;
  let schema: Schema | null = null;
  // JSON is in UTF-8, whatever a request declares (RFC 8259, 8.1).
  return ({ bytes }) => validated((schema ??= bodySchema(body.schema)), readJson(bytes));
}

/** An answer that is not JSON. */
export class TextAnswer {
  constructor(
    readonly type: string,
    readonly text: string,
  ) {}
}

/** Calls that only read and compute, by their names. */
export type Analyses = {
  readonly [Name in CallName]?: (
    call: Asked<Name> & {
      /** The media type that the client prefers. */
      readonly prefers: (...types: readonly string[]) => string | undefined;
    },
  ) => Answered<Name> | TextAnswer;
};
