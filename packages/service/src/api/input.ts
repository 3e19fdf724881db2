import type { Request } from 'express';
import * as yup from 'yup';
import type { model } from '@kleidon/core';
import { Problem } from './problem.ts';

/**
 * Validates what a request brought.
 * @throws Problem `wrong-request` that lists every error with a JSON Pointer (RFC 6901) to its place
 */
export function validated<T>(schema: yup.Schema<T>, value: unknown): T {
  try {
    return schema.validateSync(value, { abortEarly: false, stripUnknown: false });
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error;
    const errors = (error.inner.length > 0 ? error.inner : [error]).map(({ path, message }) => ({
      pointer: path ? `/${path.replace(/[.[\]]+/g, '/').replace(/\/$/, '')}` : '',
      message,
    }));
    throw new Problem('wrong-request', errors.map(({ message }) => message).join(' '), { errors });
  }
}

/** Which state of a site is asked about: its draft, with pending changes or without; what is live; or a release. */
export const state = (): yup.Schema<string> =>
  yup
    .string()
    .default('draft')
    .matches(
      /^(draft|live|[1-9]\d{0,8}|changes-[a-z0-9][a-z0-9-]{3,63})$/,
      '"state" is draft, live, the number of a release, or changes-NAME.',
    ) as unknown as yup.Schema<string>;

/** The state and the moment that a call asks about, in the query of every one. */
export const asOf = yup.object({ state: state(), at: yup.string() });

/** A query field that may be repeated, or hold several values with commas between. */
export const listField = () =>
  yup
    .array(yup.string().required())
    .transform((_, original: unknown) =>
      original === undefined
        ? undefined
        : [original as string | string[]].flat().flatMap((one) => one.split(',')),
    );

/** A query field that is a whole number. */
export const wholeField = (field: string, limit: number) =>
  yup
    .number()
    .integer()
    .min(0)
    .max(limit, `"${field}" is at most ${limit}.`)
    .typeError(`"${field}" is a whole number.`);

/** The version that If-Match names (RFC 9110, 13.1.1). */
export function versionFrom(request: Request): number {
  const header = request.get('If-Match');
  if (header === undefined) throw new Problem('version-needed', 'The header If-Match is missing.');
  const match = /^"(\d+)"$/.exec(header.trim());
  if (!match)
    throw new Problem(
      'wrong-request',
      `If-Match holds ${header}, which is not an ETag of a draft, such as "3".`,
    );
  return Number(match[1]);
}

/** A site file that came as the body. */
export function siteFileFrom(request: Request): string {
  if (typeof request.body === 'string') return request.body;
  const sent = request.get('Content-Type');
  const isEmpty =
    request.get('Content-Length') === '0' ||
    (sent === undefined && !request.get('Transfer-Encoding'));
  if (isEmpty) throw new Problem('wrong-request', 'The body is empty; a site file is wanted.');
  throw new Problem('wrong-media-type', `The body came as ${sent ?? 'nothing'}.`);
}

/** A JSON body; nothing but JSON is taken, so that no form of another site can send one. */
export function jsonFrom(request: Request): unknown {
  if (request.is('application/json')) return plainJson(request.body as unknown);
  throw new Problem(
    'wrong-media-type',
    `The body came as ${request.get('Content-Type') ?? 'nothing'}.`,
  );
}

/** Deeper than anything that the API takes. */
const DEEPEST = 100;

/** JSON that is not made to be misread: `__proto__` is a name to some, and changes what is read to others. */
function plainJson(body: unknown): unknown {
  const waiting: [value: unknown, pointer: string, depth: number][] = [[body, '', 0]];
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    const [value, pointer, depth] = next;
    if (typeof value !== 'object' || value === null) continue;
    const wrong = Object.hasOwn(value, '__proto__')
      ? '"__proto__" is not a name that can be used.'
      : depth > DEEPEST
        ? `The body is nested deeper than ${DEEPEST}.`
        : null;
    if (wrong !== null)
      throw new Problem('wrong-request', wrong, { errors: [{ pointer, message: wrong }] });
    for (const [key, inner] of Object.entries(value))
      waiting.push([
        inner,
        `${pointer}/${key.replace(/~/g, '~0').replace(/\//g, '~1')}`,
        depth + 1,
      ]);
  }
  return body;
}

const patchBody = yup
  .array(
    yup
      .object({
        op: yup
          .string()
          .strict()
          .required('"op" is missing.')
          .oneOf(
            ['add', 'replace', 'remove', 'test', 'move', 'copy'] as const,
            '"op" is add, replace, remove, move, copy or test.',
          ),
        from: yup.string().strict(),
        path: yup.string().strict().defined('"path" is missing.'),
        value: yup.mixed().nullable(),
      })
      .noUnknown('"${unknown}" is not a field of an operation.')
      .test(
        'value',
        'add, replace and test need a "value".',
        ({ op, value }) => !['add', 'replace', 'test'].includes(op) || value !== undefined,
      )
      .test(
        'from',
        'move and copy need a "from".',
        ({ op, from }) => !['move', 'copy'].includes(op) || from !== undefined,
      ),
  )
  .typeError('The body must be a list of operations.')
  .required();

/** A JSON Patch (RFC 6902). */
export function patchFrom(request: Request): readonly model.PatchOperation[] {
  if (!request.is('application/json-patch+json')) {
    throw new Problem(
      'wrong-media-type',
      `The body came as ${request.get('Content-Type') ?? 'nothing'}; a patch is application/json-patch+json.`,
    );
  }
  return validated(patchBody, plainJson(request.body)) as readonly model.PatchOperation[];
}
